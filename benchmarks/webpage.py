"""The web page of three hours in a real browser: long tasks while it opens and follows, and a search.

Against reading
the same page without its script."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
from pathlib import Path

from common import DEMO, report
from setting import talk

from dubrel.base.value import replace
from dubrel.edits.captions.resetting import set_again
from dubrel.media.probe import probe
from dubrel.release.kits import Item, Kit, plan

_BROWSER = Path(__file__).parent.parent / "tests" / "page_in_browser.py"
_LONG = (
    "(() => {window.long = []; new PerformanceObserver(l => l.getEntries().forEach(e =>"
    " window.long.push(Math.round(e.duration)))).observe({type: 'longtask', buffered: true})})()"
)
_SEARCH = (
    "(t => {const f = document.getElementById('search'), s = performance.now(); f.value = t;"
    " f.dispatchEvent(new Event('input')); window.since = s; const n = document.getElementById('found'), o ="
    " new MutationObserver(() => {if (n.textContent) {window.took = performance.now() - s - 120;"
    " o.disconnect()}}); o.observe(n, {childList: true, characterData: true, subtree: true})})('%s')"
)


def asked(page: Path, *scripts: object) -> list:
    """What scripts find in a page."""
    done = subprocess.run(
        [sys.executable, str(_BROWSER), str(page), "1280", "800"],
        input=json.dumps(scripts),
        capture_output=True,
        text=True,
        timeout=200,
        check=True,
    )
    line = next(one for one in done.stdout.splitlines() if one.startswith("ANSWERS"))
    return json.loads(line.removeprefix("ANSWERS "))["answers"]


def main() -> None:
    """Open, follow for some minutes in leaps, search for a rare and a common text."""
    project = replace(set_again(talk(30_000), None), media=probe(DEMO / "slow-water-7.opus"))
    folder = Path(tempfile.mkdtemp())
    planned, *_ = plan(project, Kit("Page", "{title}", (Item("page"),)))
    page, bare = folder / "page.html", folder / "bare.html"
    page.write_bytes(planned.form.written(planned.source))
    bare.write_text(re.sub(r"<script>.*?</script>", "", page.read_text(), flags=re.DOTALL))
    loading = "performance.timing.domComplete - performance.timing.responseEnd"
    seek = (
        "(() => {const w = document.querySelectorAll('#text0 p')[%d].querySelector('i'); w.scrollIntoView();"
        " w.click()})()"
    )
    scripts: list[object] = [_LONG, 300, "window.long.splice(0).join()", loading]
    scripts += [seek % 0, 2000, "window.long.splice(0)"]
    for _ in range(20):
        scripts += ["document.getElementById('media').currentTime += 5", 200]
    scripts += ["window.long.splice(0).join()"]
    for text in ("boat", "e", ""):
        scripts += [_SEARCH % text, 800, "window.took"]
    scripts += ["window.long.splice(0).join()"]
    found = asked(page, *scripts)
    plain = asked(bare, _LONG, 300, "window.long.splice(0).join()", loading)
    report(
        "webpage",
        opening_ms=found[2],
        bare_ms=plain[2],
        ratio=found[2] / max(1, plain[2]),
        long_while_opening=found[1],
        long_without_script=plain[1],
        long_while_following=found[-8],
        rare_search_ms=round(found[-6], 1),
        common_search_ms=round(found[-4], 1),
        long_while_searching=found[-1],
    )


if __name__ == "__main__":
    main()
