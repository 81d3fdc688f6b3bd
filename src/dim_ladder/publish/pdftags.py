"""What a PDF says of its parts to those who do not see it: headings, paragraphs, lists, tables, pictures with words (ISO 32000-1,
14.7 and 14.8). The library that writes the pages has nothing for it, but lets operators and dictionaries be added."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

from reportlab.pdfbase import pdfdoc


@dataclass
class Element:
    """A node of the structure. kids : elements, and (page, number on it) of what is drawn."""

    kind: str
    parent: Element | None = None
    alt: str = ""
    kids: list[Element | tuple[int, int]] = field(default_factory=list)


class Tags:
    """Marks what is drawn on a canvas. What is drawn in no part is an artifact: rules, grounds, page numbers."""

    def __init__(self, canvas: Any) -> None:
        self._canvas = canvas
        self._root = Element("Document")
        self._at = self._root
        self._open: Element | None = None
        self._page = 0
        self._on_page = 0
        self._counts: list[int] = []

    @contextmanager
    def group(self, kind: str) -> Iterator[None]:
        """Parts that belong together: a list, an item of it, a row of a table."""
        above = self._at
        self._at = Element(kind, above)
        above.kids.append(self._at)
        try:
            yield
        finally:
            self._at = above

    @contextmanager
    def part(self, kind: str, alt: str = "") -> Iterator[None]:
        """What is drawn inside is this. A part within a part is the outer one."""
        if self._open is not None:
            yield
            return
        self._open = Element(kind, self._at, alt)
        self._at.kids.append(self._open)
        self._begin()
        try:
            yield
        finally:
            self._canvas._code.append("EMC")
            self._open = None

    @contextmanager
    def artifact(self) -> Iterator[None]:
        """Nothing to be read."""
        if self._open is not None:
            yield
            return
        self._canvas._code.append("/Artifact BMC")
        try:
            yield
        finally:
            self._canvas._code.append("EMC")

    def _begin(self) -> None:
        assert self._open is not None
        self._canvas._code.append(f"/{self._open.kind} <</MCID {self._on_page}>> BDC")
        self._open.kids.append((self._page, self._on_page))
        self._on_page += 1

    def leave_page(self) -> None:
        """Before the footer of a page that is full."""
        if self._open is not None:
            self._canvas._code.append("EMC")

    def next_page(self) -> None:
        """On a new page: what was open goes on."""
        self._counts.append(self._on_page)
        self._page += 1
        self._on_page = 0
        if self._open is not None:
            self._begin()

    def write(self) -> None:
        """Into the document, once its last page was shown."""
        doc = self._canvas._doc
        pages = doc.Pages.pages
        parents: dict[tuple[int, int], str] = {}
        names: dict[int, str] = {}
        order: list[Element] = []

        def name(e: Element) -> None:
            names[id(e)] = f"tag{len(order)}"
            order.append(e)
            for kid in e.kids:
                if isinstance(kid, Element):
                    name(kid)
                else:
                    parents[kid] = names[id(e)]

        name(self._root)
        for e in order:
            kids = [
                pdfdoc.PDFObjectReference(names[id(k)])
                if isinstance(k, Element)
                else pdfdoc.PDFDictionary(
                    {"Type": pdfdoc.PDFName("MCR"), "Pg": doc.Reference(pages[k[0]]), "MCID": k[1]}
                )
                for k in e.kids
            ]
            above = names[id(e.parent)] if e.parent is not None else "tags"
            entry: dict[str, object] = {
                "Type": pdfdoc.PDFName("StructElem"),
                "S": pdfdoc.PDFName(e.kind),
                "P": pdfdoc.PDFObjectReference(above),
                "K": pdfdoc.PDFArray(kids),
            }
            if e.alt:
                entry["Alt"] = pdfdoc.PDFString(e.alt)
            if e.kind == "TH":
                entry["A"] = pdfdoc.PDFDictionary(
                    {"O": pdfdoc.PDFName("Table"), "Scope": pdfdoc.PDFName("Column")}
                )
            doc.Reference(pdfdoc.PDFDictionary(entry), names[id(e)])
        nums: list[object] = []
        for k, page in enumerate(pages):
            mine = sorted(n for p, n in parents if p == k)
            nums += [k, pdfdoc.PDFArray([pdfdoc.PDFObjectReference(parents[k, n]) for n in mine])]
            page.__NoDefault__ = [*type(page).__NoDefault__, "StructParents", "Tabs"]
            page.StructParents = k
            page.Tabs = pdfdoc.PDFName("S")
        tree = pdfdoc.PDFDictionary({"Nums": pdfdoc.PDFArray(nums)})
        root = pdfdoc.PDFDictionary(
            {
                "Type": pdfdoc.PDFName("StructTreeRoot"),
                "K": pdfdoc.PDFArray([pdfdoc.PDFObjectReference(names[id(self._root)])]),
                "ParentTree": doc.Reference(tree, "tag-parents"),
                "ParentTreeNextKey": len(pages),
            }
        )
        doc.Catalog.StructTreeRoot = doc.Reference(root, "tags")
        doc.Catalog.MarkInfo = pdfdoc.PDFDictionary({"Marked": "true"})
