"""The demo with many more particles, to measure with."""

from __future__ import annotations

from wraithon.project.edit import with_layer
from wraithon.project.project import Project

from .project import demo_project


def crowded_demo(living: int) -> Project:
    """Return the demo with about `living` particles alive at once: more of its glints, 2 to 4 cm each."""
    project = demo_project()
    found = project.layer("plume-glints")
    assert found is not None  # the demo has it
    effect, glints = found
    mean = (glints.lifetime.birth.low + glints.lifetime.birth.high) / 2
    more = glints.evolve(
        emission=glints.emission.evolve(rate=living / mean, limit=living * 2),
        size=glints.size.evolve(birth=glints.size.birth.evolve(low=0.02, high=0.04)),
    )
    return with_layer(project, effect.id, more)
