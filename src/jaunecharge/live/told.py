"""News of lanes: what has changed, and which cannot be shown."""

import datetime as dt
import json
import uuid
from dataclasses import dataclass, field
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy.orm import Session

from ..core.log import is_phone
from ..store import bench_models as b
from ..store.bench import lanes as store
from .lane_state import LaneState
from .shown import LaneView
from .view import traced


@dataclass(frozen=True)
class Aside:
    """A lane that is open and cannot be shown or watched: since when, and why."""

    id: uuid.UUID
    name: str
    since: dt.datetime
    why: str


@dataclass
class Told:
    """News of one change or of some: figures at once, views now and then, lanes that are over."""

    figures: dict[str, list[Any]] = field(default_factory=dict)
    views: list[LaneView] = field(default_factory=list)
    over: list[str] = field(default_factory=list)


def figures(state: LaneState, after_tick: int) -> list[Any]:
    """The newest figures of a lane, short: time, watts, volts, hottest, percentage, and the steps that changed."""
    steps = traced(state, after_tick)
    last = state.last
    hottest = max((c for p, (_, c) in state.celsius.items() if is_phone(p)), default=None)
    return [
        round(state.newest_s, 2),
        *(round(last[k][1], 3) if k in last else None for k in ("watts", "volts")),
        None if hottest is None else round(hottest, 2),
        state.reported[-1][1] if state.reported else None,
        steps.watts,
        steps.celsius,
    ]


def loaded(session: Session, lane: b.Lane) -> LaneState:
    """A lane's state, rebuilt from the store."""
    state = LaneState(lane)
    for entry in store.entries_of(session, lane.id):
        state.enter(entry)
    state.take(store.means_of(session, lane.id))
    return state


_VIEWS = TypeAdapter(list[LaneView])


def written(news: Told, at: dt.datetime, tick: int, away: bool, waiting: int, aside: list[Aside]) -> str:
    """News as they are told, in JSON, with the state of the bench at a count of its changes."""
    views = _VIEWS.dump_json(news.views).decode() if news.views else "[]"
    rest = json.dumps(
        {
            "tick": tick, "at": at.isoformat(), "figures": news.figures, "over": news.over, "away": away,
            "waiting": waiting,
            "aside": [{"id": str(x.id), "name": x.name, "since": x.since.isoformat(), "why": x.why} for x in aside],
        },
        separators=(",", ":"),
    )  # fmt: skip
    return f'{rest[:-1]},"views":{views}}}'
