"""What of a window is in sight in other colours than those of now."""

from PySide6.QtWidgets import QApplication, QWidget


def undressed(window) -> list[QWidget]:
    """Visible widgets that nothing dresses, or in the dress of another theme."""
    sheet = QApplication.instance().property("sheet")
    bare = {window, window.body, window.whole, window.booth, window.pages, window.drawers}
    bare |= {window.booth.panels, window.booth.picture}
    found = []
    for one in (window, *window.findChildren(QWidget)):
        if one.isVisible() and one not in bare:
            above, at = [], one
            while at is not None:
                above.append(at.styleSheet())
                at = at.parentWidget()
            worn = [text for text in above if "QMainWindow" in text]
            if set(worn) != {sheet}:
                found.append(one)
    return found
