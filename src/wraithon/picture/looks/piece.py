"""Pieces on the picture: solid things, drawn together with the character (see `solids`)."""

from __future__ import annotations

from typing import ClassVar

from wraithon.picture.looks.drawer import Phase


class MeshDrawer:
    """Says when pieces are drawn."""

    phase: ClassVar[Phase] = Phase.OPAQUE


DRAWER = MeshDrawer()
