"""Summaries of what a character file, a project or a finished run holds, as plain data."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wraithon.character.retarget import guess_unit, propose_matches, retargeted
from wraithon.character.retarget_root import root_of

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.character.reading.bvh import Capture
    from wraithon.project.checks.finding import Finding
    from wraithon.project.project import Project
    from wraithon.stage.player import Player


def summarise_character(character: Character) -> dict[str, Any]:
    """Return parts with triangle counts, joint names, clips with seconds, and the reader's notes."""
    return {
        "parts": [{"name": part.name, "triangles": part.triangle_count} for part in character.parts],
        "joints": list(character.skeleton.joint_names),
        "clips": [{"name": clip.name, "seconds": round(clip.seconds, 6)} for clip in character.clips],
        "vertices": len(character.mesh.positions),
        "notes": list(character.notes),
    }


def summarise_project(project: Project) -> dict[str, Any]:
    """Return what a project holds, by name."""
    use = project.character
    return {
        "name": project.name,
        "characters": [{"name": c.name, "file": c.file} for c in project.characters],
        "effects": [
            {"name": e.name, "layers": [{"name": layer.name, "look": layer.look.kind} for layer in e.layers]}
            for e in project.effects
        ],
        "triggers": [t.name for t in project.triggers],
        "anchors": [a.name for a in use.anchors] if use else [],
        "events": [e.name for e in use.events] if use else [],
        "order": [{"clip": clip_run.clip, "times": clip_run.times} for clip_run in project.stage.order],
    }


def summarise_findings(findings: list[Finding]) -> list[dict[str, str]]:
    """Return findings as plain data."""
    return [
        {
            "level": str(f.level),
            "place": f.location,
            "message": f.message,
            "remedy": f.remedy.text if f.remedy else "",
        }
        for f in findings
    ]


def summarise_run(player: Player, *, digest: bool) -> dict[str, Any]:
    """Return what is alive, what was born and refused, and each firing with its start in seconds."""
    project, show = player.project, player.show
    names = {effect.id: effect.name for effect in project.effects}
    triggers = {trigger.id: trigger.name for trigger in project.triggers}
    data: dict[str, Any] = {
        "time": round(show.time, 6),
        "alive": show.alive,
        "births": show.born,
        "refused": show.refused,
        "firings": [
            {
                "effect": names.get(record.shown, record.shown),
                "trigger": triggers.get(record.trigger, record.trigger),
                "time": round(record.start, 6),
                "peak": record.peak,
            }
            for record in sorted(show.history(), key=lambda r: r.start)
        ],
    }
    if digest:
        data["digest"] = player.digest()
    return data


def summarise_fit(character: Character, capture: Capture) -> dict[str, Any]:
    """Return how a motion is matched with a character, its unit, and how well it fits."""
    # Looking at feet needs the compiler, which takes longer to import than most of what is summarised.
    from wraithon.character.retarget_fit import feet_below_ground, length_error, limb_error, root_error

    matches = propose_matches(capture, character)
    unit = guess_unit(capture, character, matches)
    clip = retargeted(capture, character, matches, unit)
    root = root_of(capture, character, matches, unit)
    return {
        "unit": round(unit, 6),
        "matched": [[match, joint] for joint, match in matches.items()],
        "unmatched": [joint for joint in capture.joints if joint not in matches],
        "root_matched": root is not None,
        "root": [character.skeleton.names[root.node], capture.joints[root.joint]] if root else None,
        "root_error_deg": round(root_error(capture, character, root, clip), 2),
        "limb_error_deg": round(limb_error(capture, character, matches, clip), 2),
        "length_error_m": round(length_error(capture, character, clip, root.node if root else 0), 5),
        "feet_below_ground_m": round(feet_below_ground(capture, character, clip), 4),
    }
