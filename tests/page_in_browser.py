"""Opens a web page in a real browser engine and prints what scripts in it find; run in a process of its own.

usage: page_in_browser.py PAGE WIDTH HEIGHT [PICTURE.png]  (scripts come as JSON on standard input)
"""

import json
import os
import sys

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
    wait(800)
    answers = []
    for script in json.load(sys.stdin):
        if isinstance(script, int):
            wait(script)
            continue
        got, inner = [], QEventLoop()
        view.page().runJavaScript(
            script, 0, lambda value, got=got, inner=inner: (got.append(value), inner.quit())
        )
        QTimer.singleShot(20_000, inner.quit)
        inner.exec()
        answers.append(got[0] if got else None)
    if picture:
        wait(500)
        view.grab().save(picture[0])
    print("ANSWERS", json.dumps({"answers": answers, "requests": requests.found}), flush=True)
    del app
    os._exit(0)


main()
