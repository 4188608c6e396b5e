"""Small drawings: how births fall, and the source on the character's outline."""

import numpy as np
import pytest

from tests.desktop.test_picture_view import pixels_of
from wraithon.character.fairness import Tally
from wraithon.desktop.effects.births_view import LINE_HIGH, NAME, BirthsChart
from wraithon.desktop.effects.source_diagram import SourceDiagram
from wraithon.project.source import Aim, Heading, PointSource, RingSource, SkinSource, SphereSource

WIDE = 340
TEAL, RUST = (57, 181, 166), (217, 106, 61)


@pytest.fixture
def chart(themed):
    made = BirthsChart()
    yield made
    made.deleteLater()


def show(chart, parts, joints=(), *, bones=False):
    chart.show_tallies(list(parts), list(joints), bones=bones)
    chart.resize(WIDE, chart.height())
    return pixels_of(chart)


def bar(pixels, line):
    """Return the colour and the length of the bar in a line, or None."""
    row = pixels[line * LINE_HIGH + 6, NAME:-46]
    for name, colour in (("teal", TEAL), ("rust", RUST)):
        if (length := (np.abs(row - colour).max(axis=1) < 40).sum()) > 1:
            return name, int(length)
    return None


def test_bars_are_as_long_as_births_and_the_longest_fills_the_room(chart):
    pixels = show(chart, [Tally("body", 0.6, 0.6), Tally("cloak", 0.3, 0.3), Tally("mask", 0.1, 0.1)])
    room = WIDE - NAME - 46
    lengths = [bar(pixels, line)[1] for line in (1, 2, 3)]
    assert lengths == pytest.approx([room, room / 2, room / 6], abs=4)


@pytest.mark.parametrize(
    ("births", "fair", "colour"),
    [
        (0.3, 0.3, "teal"),
        (0.449, 0.3, "teal"),
        (0.451, 0.3, "rust"),
        (0.2, 0.3, "teal"),
        (0.197, 0.3, "rust"),
        (0.03, 0.009, "teal"),
    ],
)
def test_more_than_half_as_much_again_or_less_than_two_thirds_stands_out(chart, births, fair, colour):
    pixels = show(chart, [Tally("body", births, fair), Tally("rest", 0.5, 0.5)])
    assert bar(pixels, 1)[0] == colour


def test_parts_and_joints_have_headings_and_all_lines_have_room(chart):
    parts, joints = [Tally("body", 1, 1)], [Tally("head", 0.5, 0.5), Tally("hand", 0.5, 0.5)]
    pixels = show(chart, parts, joints)
    assert chart.height() == (2 + 3) * LINE_HIGH + LINE_HIGH + 4
    assert [bar(pixels, line) is not None for line in range(5)] == [False, True, False, True, True]
    show(chart, [], joints)
    assert chart.height() == 3 * LINE_HIGH + LINE_HIGH + 4


@pytest.mark.parametrize(("bones", "measure"), [(False, "area"), (True, "length")])
def test_the_figures_are_told_in_words(chart, bones, measure):
    show(chart, [Tally("body", 0.625, 0.5)], bones=bones)
    assert chart.toolTip() == f"body: 62.5% of births, 50.0% by {measure}"
    assert chart.accessibleName()


def test_where_nothing_gives_birth_it_says_so(chart):
    pixels = show(chart, [])
    assert chart.height() == 2 * LINE_HIGH
    assert (np.ptp(pixels.reshape(-1, 3), axis=0) > 60).any()


@pytest.fixture
def diagram(themed):
    made = SourceDiagram()
    yield made
    made.deleteLater()


def teal_at(pixels, x, y):
    return (np.abs(pixels[y - 1 : y + 2, x - 1 : x + 2] - TEAL).max(axis=-1) < 60).any()


@pytest.mark.parametrize(
    ("source", "edges"),
    [(PointSource(), []), (SphereSource(), [(22, 0), (0, 22)]), (RingSource(), [(30, 0), (0, 9)])],
)
def test_each_shape_is_drawn_around_the_middle(diagram, halcyon, source, edges):
    diagram.show_source(source, halcyon)
    pixels, x, y = pixels_of(diagram), 56, round(168 * 0.62)
    for dx, dy in [(22, 0), (0, 22), (30, 0), (0, 9)]:
        assert teal_at(pixels, x + dx, y + dy) == ((dx, dy) in edges)


@pytest.mark.parametrize(
    ("heading", "tips"),
    [(Heading.UP, [(0, -34)]), (Heading.FORWARD, [(26, 12)]), (Heading.OUTWARD, [(34, 0), (-34, 0), (0, -30)])],
)
def test_arrows_point_where_births_head(diagram, halcyon, heading, tips):
    diagram.show_source(PointSource(aim=Aim(heading=heading)), halcyon)
    pixels, x, y = pixels_of(diagram), 56, round(168 * 0.62)
    every = [(0, -34), (26, 12), (34, 0), (-34, 0)]
    seen = [t for t in every if np.abs(pixels[y + t[1], x + t[0]] - RUST).max() < 60]
    assert seen == [t for t in every if t in tips]


def test_chosen_parts_stand_out_on_the_outline(diagram, halcyon):
    diagram.show_source(SkinSource(), halcyon)
    whole = pixels_of(diagram)
    diagram.show_source(SkinSource(parts=("mask",)), halcyon)
    mask = pixels_of(diagram)
    diagram.show_source(PointSource(), None)
    nothing = pixels_of(diagram)
    changed = (whole != mask).any(axis=-1)
    assert changed.mean() > 0.02
    assert (nothing != mask).any()
