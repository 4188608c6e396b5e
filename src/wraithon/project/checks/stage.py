"""What is wrong with the stage: grounds that are gone, and pictures of them that are."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.checks.finding import Change, Finding, Level, Remedy

if TYPE_CHECKING:
    from collections.abc import Iterator

    from wraithon.project.project import Project


def check_stage(project: Project, textures: frozenset[str] | None) -> Iterator[Finding]:
    """Yield what of the stage is not there; None leaves `textures` unchecked."""
    stage = project.stage
    kinds = stage.ground_kinds
    if stage.ground not in kinds:
        remedy = Remedy("Make it a plain floor", (Change("stage", "", "ground", "plain"),))
        yield Finding(Level.ERROR, "stage", "its ground is gone and shows as a plain floor; pick another", "", remedy)
    for piece in stage.pieces:
        if piece.kind not in kinds:
            remedy = Remedy("Make it plain", (Change("block", piece.id, "kind", "plain"),))
            message = "its ground is gone and shows as a plain floor; pick another"
            yield Finding(Level.ERROR, f'stage, "{piece.name}"', message, piece.id, remedy)
    for number, own in enumerate(stage.grounds):
        if textures is not None and own.picture and own.picture not in textures:
            remedy = Remedy("Show its colour alone", (Change("stage", "", f"grounds.{number}.picture", ""),))
            message = f'its picture "{own.picture}" is not in the project; pick another'
            yield Finding(Level.ERROR, f'ground "{own.name}"', message, "", remedy)
