"""The demonstration's bench: two lanes with stand-ins at sixty times the speed, placed once somebody looks."""

import threading
import time
import uuid
from contextlib import suppress
from dataclasses import replace

from sqlalchemy import select

from ..core.bench import around_lane
from ..core.errors import CannotRead
from ..live.hub import Hub
from ..live.practice import Practice, place_at
from ..live.steady import now
from ..store import bench_models as b
from ..store.bench import lanes as store
from ..store.bench import log as lanes
from ..store.bench.opening import chain_of_labels, lane_on_the_spot
from ..store.database import Database
from ..store.errors import LaneOver, NotThere
from .plan import WARDEN, ZONE

SPEED = 60.0
PLACED_AFTER_S = (3.0, 6.0)
"""Wait with each phone once somebody looks: by then its no-load draw is known."""

LOOKED_EVERY_S = 0.3
LANES = (
    ({"phone": "Ostrel Max", "charger": "Serac dock 15", "adapter": "Plug 20", "case": "none",
      "airflow": "still air", "phone_state": "idle"}, 27.0),
    ({"phone": "Tarn 9", "charger": "Larch twin stand", "place": "left", "adapter": "Plug 30 twin", "case": "none",
      "airflow": "still air", "phone_state": "idle"}, 23.0),
)  # fmt: skip


def open_lanes(database: Database, practice: Practice) -> list[tuple[uuid.UUID, str, str]]:
    """Open the lanes of the demonstration: (lane, address of its stand-in, token).

    Those of an earlier start have lost their stand-ins, and are ended.
    """
    opened = []
    with database.session() as session:
        for old in session.scalars(select(b.Lane).where(b.Lane.state.in_(store.OPEN), b.Lane.created_by == WARDEN)):
            lanes.close_lane(session, old, "void", "the demonstration was started again", now(), WARDEN)
        for seed, (factors, ambient_c) in enumerate(LANES, start=1):
            new = lane_on_the_spot(session, factors, "From ten to full", ambient_c, zone=ZONE, by=WARDEN)
            chain = chain_of_labels(session, new.factors)
            if chain is None:
                continue
            around = around_lane(new.card, factors["airflow"], factors["phone_state"], ambient_c)
            address = practice.stand(chain, around, SPEED, seed)
            new = replace(
                new, meter="stand-in", probe="stand-in", meter_address=address, probe_address=address, speed=SPEED,
                simulated=True,
            )  # fmt: skip
            lane = store.open_lane(session, new, now())
            opened.append((lane.id, address, lane.token))
    return opened


def play(database: Database, hub: Hub, practice: Practice, server: str) -> threading.Thread:
    """Open the lanes, and place their phones once somebody looks at the bench."""
    opened = open_lanes(database, practice)
    for lane, address, token in opened:
        practice.report(address, server, lane, token)

    def wait() -> None:
        while not hub.wait_for_somebody(LOOKED_EVERY_S):
            if hub.over:
                return
        for (lane_id, address, _), after in zip(opened, PLACED_AFTER_S, strict=False):
            time.sleep(after)
            place_at(address)
            with suppress(CannotRead, LaneOver, NotThere), database.session() as session:
                lane = store.lane_for_change(session, lane_id)
                lanes.place(session, lane, lanes.lane_s(lane, now()), now(), WARDEN)

    thread = threading.Thread(target=wait, name="demonstration's bench", daemon=True)
    thread.start()
    return thread
