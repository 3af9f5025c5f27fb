"""What all that can be acted on answers alike."""

from __future__ import annotations


class Acting:
    """Acts with names of their own, which say enough; a class names them, and does them.

    Stands before the toolkit's own ``QAccessibleActionInterface`` among the bases.
    """

    def localizedActionName(self, name: str) -> str:
        """The same."""
        return name

    def localizedActionDescription(self, _name: str) -> str:
        """Names say enough."""
        return ""

    def keyBindingsForAction(self, _name: str) -> list[str]:
        """The command list says them."""
        return []
