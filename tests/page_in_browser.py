"""Opens a web page in a real browser engine and prints what scripts in it find; run in a process of its own.

usage: page_in_browser.py PAGE WIDTH HEIGHT [PICTURE.png]

Scripts come as a list in JSON on standard input. In place of one may stand
{"until": "…"}, to wait until it is true, or a number of milliseconds.
"""

import json
import os
import sys
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["QTWEBENGINE_CHROMIUM_FLAGS"] = (
    "--no-sandbox --disable-gpu --autoplay-policy=no-user-gesture-required"
)
os.environ["QTWEBENGINE_DISABLE_SANDBOX"] = "1"

from PySide6.QtCore import QEventLoop, Qt, QTimer, QUrl
from PySide6.QtWebEngineCore import QWebEngineUrlRequestInterceptor
from PySide6.QtWebEngineWidgets import QWebEngineView
from PySide6.QtWidgets import QApplication


class Requests(QWebEngineUrlRequestInterceptor):
    """Keeps every address that is asked for."""

    def __init__(self):
        super().__init__()
        self.found = []

    def interceptRequest(self, info):
        self.found.append(info.requestUrl().toString())


def wait(ms):
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


def asked(view, script):
    """What a script in the page gives."""
    got, loop = [], QEventLoop()
    view.page().runJavaScript(script, 0, lambda value: (got.append(value), loop.quit()))
    QTimer.singleShot(20_000, loop.quit)
    loop.exec()
    return got[0] if got else None


def wait_until(view, condition):
    until = time.monotonic() + 40
    while not asked(view, f"!!({condition})") and time.monotonic() < until:
        wait(20)


def main():
    page, width, height, *picture = sys.argv[1:]
    app = QApplication([])
    view, requests = QWebEngineView(), Requests()
    view.page().profile().setUrlRequestInterceptor(requests)
    view.resize(int(width), int(height))
    view.setAttribute(Qt.WidgetAttribute.WA_DontShowOnScreen, False)
    view.show()
    loop = QEventLoop()
    view.loadFinished.connect(lambda _ok: loop.quit())
    view.load(QUrl.fromLocalFile(page))
    QTimer.singleShot(30_000, loop.quit)
    loop.exec()
    wait_until(view, "document.readyState == 'complete'")
    answers = []
    for script in json.load(sys.stdin):
        if isinstance(script, int):
            wait(script)
        elif isinstance(script, dict):
            wait_until(view, script["until"])
        else:
            answers.append(asked(view, script))
    if picture:
        wait(500)
        view.grab().save(picture[0])
    print("ANSWERS", json.dumps({"answers": answers, "requests": requests.found}), flush=True)
    del app
    os._exit(0)


main()
