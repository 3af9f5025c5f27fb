"""Trees of XML inside documents: parsed without what they could fetch, compared without namespaces."""

from __future__ import annotations

from typing import Any


def tree_of(data: bytes) -> Any:
    """A part of a document as a tree.

    Raises
    ------
    Exception
        Whatever a broken tree makes its parser raise.
    """
    from lxml import etree  # late: only where such a script is read

    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=False)
    return etree.fromstring(data, parser)


def bare_name(element: Any) -> str:
    """What kind of element it is; empty for comments and the like."""
    return str(element.tag).rpartition("}")[2] if isinstance(element.tag, str) else ""
