"""Run by the system's Python beside a window under AT-SPI: what another program reads of it, as JSON.

The first argument is the name of the pass to go to, the second that of the page.
"""

import json
import sys
import time

import pyatspi


def find(top, wanted):
    """The first thing below another of which something is true."""
    if top is None:
        return None
    if wanted(top):
        return top
    for nth in range(top.childCount):
        found = find(top[nth], wanted)
        if found is not None:
            return found
    return None


def waited(look, seconds=40):
    """What a look finds, as soon as it does."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        try:
            found = look()
        except Exception:  # a window that is just being made
            found = None
        if found is not None:
            return found
        time.sleep(0.2)
    raise SystemExit("nothing was found")


def shows(one):
    """Whether something is seen."""
    return one.getState().contains(pyatspi.STATE_SHOWING)


def read(item):
    """What one thing on the page says."""
    text, acts = item.queryText(), item.queryAction()
    return {
        "name": item.name,
        "role": item.getRoleName(),
        "text": text.getText(0, -1),
        "word": text.getStringAtOffset(1, pyatspi.TEXT_GRANULARITY_WORD)[0],
        "acts": [acts.getName(k) for k in range(acts.nActions)],
    }


def main():
    """Go to a pass, read three things on its page, write into the first where it can be."""
    name, wanted = sys.argv[1:]
    desktop = pyatspi.Registry.getDesktop(0)
    app = waited(lambda: next((one for one in desktop if one and one.childCount), None))
    app.set_cache_mask(pyatspi.Atspi.Cache.NONE if hasattr(pyatspi, "Atspi") else 0)
    rail = waited(
        lambda: find(app, lambda one: one.name == name and one.getState().contains(pyatspi.STATE_FOCUSABLE))
    )
    acts = rail.queryAction()
    names = [acts.getName(k) for k in range(acts.nActions)]
    acts.doAction(next(k for k, one in enumerate(names) if one in ("Toggle", "Press")))
    page = waited(lambda: find(app, lambda one: one.name == wanted and shows(one) and one.childCount > 0))
    found = {"role": page.getRoleName(), "count": page.childCount, "rows": [read(page[k]) for k in range(3)]}
    if page[0].getState().contains(pyatspi.STATE_EDITABLE):
        page[0].queryText().setCaretOffset(3)
        found["caret"] = waited(lambda: 3 if page[0].queryText().caretOffset == 3 else None)
        page[0].queryEditableText().insertText(0, "Well, ", 6)
        wanted = "Well, "
        found["after"] = waited(
            lambda: text if (text := page[0].queryText().getText(0, 20)).startswith(wanted) else None
        )
    print(json.dumps(found))


main()
