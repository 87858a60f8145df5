"""Hits over weeks, in the room and on stage; and misses under the notes of a staff."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.safestring import SafeString

from drawing.chance import HOLDS_PERCENT
from drawing.svg import join, tag

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 720.0, 220.0, 44.0, 12.0, 14.0, 34.0
UNDER = 40.0
BAR, BAR_MOST = 7.0, 24.0


@dataclass(frozen=True)
class WeekOfHits:
    """Attempts of one week: in the room, lessons with it, and on stage; clean ones, and all of them."""

    label: str
    room: tuple[int, int]
    stage: tuple[int, int]


def hits_svg(weeks: Sequence[WeekOfHits], label: str) -> SafeString:
    """Clean attempts of a hundred week by week: a disc for the room, a square for the stage.

    The fuller the mark, the more attempts; `label` says it in words.
    """
    step = (WIDTH - LEFT - RIGHT) / max(len(weeks), 1)
    most = max((one[1] for week in weeks for one in (week.room, week.stage)), default=1) or 1

    def at(n, clean, total):
        return LEFT + (n + 0.5) * step, _y(100 * clean / total), 3 + 6 * (total / most) ** 0.5

    room = [at(n, *week.room) for n, week in enumerate(weeks) if week.room[1]]
    stage = [at(n, *week.stage) for n, week in enumerate(weeks) if week.stage[1]]
    rules = [
        join(
            [
                tag("line", class_="hits-rule", x1=LEFT, x2=WIDTH - RIGHT, y1=_y(share), y2=_y(share)),
                tag("text", share, class_="hits-text", x=LEFT - 8, y=_y(share) + 4, text_anchor="end"),
            ]
        )
        for share in (0, 50, 100)
    ]
    holds = tag(
        "line", class_="hits-holds", x1=LEFT, x2=WIDTH - RIGHT, y1=_y(HOLDS_PERCENT), y2=_y(HOLDS_PERCENT)
    )
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y, _ in room)
    texts = [
        tag(
            "text",
            week.label,
            class_="hits-text",
            x=LEFT + (n + 0.5) * step,
            y=HEIGHT - 10,
            text_anchor="middle",
        )
        for n, week in enumerate(weeks)
    ]
    return tag(
        "svg",
        *rules,
        holds,
        tag("polyline", class_="hits-way", points=points),
        *(tag("circle", class_="hits-room", cx=x, cy=y, r=r) for x, y, r in room),
        *(tag("rect", class_="hits-stage", x=x - r, y=y - r, width=2 * r, height=2 * r) for x, y, r in stage),
        *texts,
        class_="w-full",
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        role="img",
        aria_label=label,
    )


def _y(share: float) -> float:
    return TOP + (1 - share / 100) * (HEIGHT - TOP - BOTTOM)


def misses_under(notes: Sequence[tuple[float, int, int]], top: float) -> SafeString:
    """Under each note, by its place from the left, how often it was missed, and of how many times."""
    parts = []
    for x, missed, total in notes:
        if not total:
            continue
        tall = BAR_MOST * missed / total
        parts.append(tag("rect", class_="hits-ground", x=x - BAR / 2, y=top, width=BAR, height=BAR_MOST))
        parts.append(tag("rect", class_="hits-missed", x=x - BAR / 2, y=top, width=BAR, height=tall))
        if missed:
            parts.append(
                tag("text", missed, class_="hits-text", x=x, y=top + UNDER - 4, text_anchor="middle")
            )
    return join(parts)
