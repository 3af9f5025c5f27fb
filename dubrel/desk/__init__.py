"""The Qt application: everything that imports PySide6 and nothing that decides."""
