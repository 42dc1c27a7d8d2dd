"""The demonstration: a mountain-hut association tests bedside chargers and packs for solar huts. All invented."""

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass, replace
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.chain import Chain, as_fed
from ..core.kit import Adapter, Cable, Case, Charger, Kit, Meter, Pack, Phone, as_charger, kit_from_line
from ..core.simulator import NEVER, Circumstances, Event, Scenario, Throttling, prepare
from ..store import models as m
from ..store.database import Database
from ..store.kit import add_all
from ..store.runs.rehearsals import NewRehearsal, add_rehearsal
from .findings import add_hut_findings
from .packs import add_hut_packs
from .plan import ORIGIN, PECULIAR, WARDEN, ZONE, add_hut_plan, add_lending_plan

SHELF = (
    "phone Ostrel Mini 3180mAh 3.87V mpp@12 wired 20W small magnets 97%",
    "phone Ostrel Max 4620mAh 3.87V mpp wired 25W large magnets",
    "phone Tarn 9 4360mAh 3.87V epp wired 30W medium 92% gives_w:4.5 gives_stop_percent:30",
    "phone Quill Lite 3840mAh 3.85V bpp wired 10W medium",
    "phone Fen 5 5120mAh 3.88V own:glide=20 epp wired 45W large",
    "charger Cairn disc 15 mpp claims 15W puck asks 9V2.22A 45EUR 5.6mm",
    "charger Serac dock 15 mpp claims 15W stand asks 9V2.22A 79EUR switchable",
    "charger Moraine magnet pad magnet-only claims 15W 19EUR",
    'charger Larch twin stand pads:"left: epp=10W; right: bpp" form:multi-stand claims 15W asks:9V3A 59EUR no_load_w:3',
    "charger Gully puck 10 bpp claims 10W asks 5V2A agrees:5v 14EUR puck",
    "charger Talus plate own:glide=20 epp claims 20W asks:12V2A agrees:own modes:glide 64EUR",
    "adapter Plug 20 20W 17EUR",
    "adapter Plug 30 twin 30W ports:2 shared_w:30 29EUR",
    "adapter Plug 18 5V3A 9V2A 12V1.5A 12EUR",
    "adapter Old plug 5 5V1A",
    "adapter Hut radio port usb3",
    "cable Braided 1.5 3A 1.5m 9EUR",
    "cable Thin flat 1.5A 1m",
    "pack Col bank 10 10000mAh 3.7V mpp 5V3A 9V2.22A 69EUR 212g",
    "pack Scree bank 5 5000mAh 3.7V magnet-only 5V2A 25EUR 128g 4 lamps",
    "pack Cornice slim 20 20000mAh 3.7V 5V3A 29EUR 398g",
    "pack Moraine trail 27 27000mAh 3.6V 5V3A 20V5A claims 100W 89EUR 610g",
    "meter Inline A 0.5%",
    "meter Inline B 1% step_s:2",
    "meter Hut plug socket 1%",
    "probe Bead 0.5K thermocouple",
    'probe Hut camera 2K sensor:"thermal camera"',
    "probe Bunk room air 0.5K",
    "case Thin case 1.2mm magnets",
    "case Rubber case 3.5mm",
    "case Ring case 1.6mm magnets",
)
"""The shelf, as a warden would type it."""

CYCLES = Throttling(hot_c=40.5, cool_c=38.5, throttled_w=5.5)
HOLDS_LEVEL = Throttling(level_c=36.5, band_k=1.5, least_w=2.0)
CUTS = Throttling(cut_c=36.4, resume_c=34.4)
Changed = Callable[[Scenario], Scenario]


@dataclass(frozen=True)
class Scene:
    """One run of the demonstration: labels of the kit, circumstances, what is peculiar to it, and a note."""

    phone: str
    charger: str
    adapter: str
    seed: int
    around: Circumstances
    case: str = ""
    note: str = ""
    changed: Changed = lambda scenario: scenario
    cable: str = "Braided 1.5"
    plugged: bool = False
    """Whether a plug metered the socket too."""


BEGAN = {
    11: (16, "17:40"), 12: (15, "17:35"), 13: (14, "17:50"), 14: (12, "17:30"), 15: (11, "17:45"), 16: (10, "18:05"),
    17: (15, "16:20"), 18: (14, "12:05"), 19: (9, "17:40"), 20: (8, "17:55"), 21: (13, "17:35"), 22: (7, "18:10"),
    23: (6, "17:20"), 24: (5, "17:40"), 25: (4, "18:00"), 26: (3, "17:30"),
}  # fmt: skip
"""When a scene was run, by its seed: days before the demonstration is loaded, and the time of day at the hut."""


def _throttling(way: Throttling) -> Changed:
    return lambda s: replace(s, throttling=way)


WARM = Circumstances(ambient_c=27.0, start_percent=5.0, interval_min=5.0)
ROOM = Circumstances(ambient_c=23.0, start_percent=10.0)

SCENES = (
    Scene(
        "Ostrel Mini", "Cairn disc 15", "Plug 20", 11, WARM, note="Bunk room of hut 1, window shut.",
        changed=_throttling(CYCLES),
    ),
    Scene(
        "Ostrel Max", "Cairn disc 15", "Plug 20", 12, ROOM,
        changed=lambda s: replace(s, stages=PECULIAR["Ostrel Max", "Cairn disc 15"], knee_percent=86.0),
    ),
    Scene(
        "Ostrel Max", "Serac dock 15", "Plug 20", 13, replace(ROOM, ambient_c=26.0),
        note="Dock's fan left off: it wakes the guests.", changed=_throttling(HOLDS_LEVEL),
    ),
    Scene(
        "Ostrel Max", "Serac dock 15", "Plug 20", 14, replace(ROOM, ambient_c=26.0, airflow="charger's own fan"),
        changed=_throttling(HOLDS_LEVEL),
    ),
    Scene(
        "Ostrel Max", "Moraine magnet pad", "Plug 20", 15, ROOM, note="Sold as 15 W. Magnets hold well.",
    ),
    Scene(
        "Ostrel Max", "Cairn disc 15", "Plug 20", 16, replace(ROOM, hold_percent=80.0), "Thin case",
        note="Charge limit was still on.", changed=lambda s: replace(s, hold_s=5400.0, throttling=Throttling()),
    ),
    Scene(
        "Tarn 9", "Larch twin stand", "Plug 30 twin", 17, replace(ROOM, ambient_c=22.0, tail_min=120.0),
        note="Left pad; nothing on the other.", plugged=True,
    ),
    Scene(
        "Quill Lite", "Gully puck 10", "Plug 18", 18, replace(ROOM, ambient_c=29.0, interval_min=15.0), "Rubber case",
        note="South room at noon.", changed=_throttling(CUTS),
    ),
    Scene(
        "Ostrel Mini", "Moraine magnet pad", "Plug 20", 19,
        replace(ROOM, events=(
            Event("slip", 1500, 70), Event("slip", 2600, 130), Event("slip", 4100, 45), Event("gap", 3000, 150),
        )),
        "Ring case", note="The ring does not sit flat; slipped off three times.",
    ),
    Scene("Ostrel Max", "Cairn disc 15", "Plug 18", 20, ROOM, note="The plug from the kitchen: 18 W printed on it."),
    Scene(
        "Ostrel Max", "Cairn disc 15", "Plug 20", 21, ROOM, note="The same again, two days later.",
        changed=lambda s: replace(s, stages=((0, 14.9), (35, 12.4), (60, 9.6)), knee_percent=85.5),
    ),
    Scene(
        "Ostrel Max", "Serac dock 15", "Plug 30 twin", 22, replace(ROOM, start_percent=35.0, interval_min=15.0),
        "Rubber case", note="Started late, with the case on: not to be laid beside the others.",
    ),
    Scene("Ostrel Max", "Col bank 10", "", 23, replace(ROOM, start_percent=5.0), note="Pack from 100 to 4 %."),
    Scene(
        "Ostrel Mini", "Scree bank 5", "", 24, replace(ROOM, start_percent=5.0, hold_percent=62.0, tail_min=5.0),
        note="Pack empty after this: three lamps out of four were a lie.",
        changed=lambda s: replace(s, hold_s=NEVER, most_s=9000.0),
    ),
    Scene("Ostrel Max", "", "Plug 20", 25, ROOM, note="By wire, for comparison."),
    Scene(
        "Tarn 9", "Talus plate", "Plug 30 twin", 26, replace(ROOM, phone_state="in use"),
        note="The plate wants its maker's own plug.",
    ),
)  # fmt: skip


def shelf() -> tuple[Kit, ...]:
    """The kit of the demonstration."""
    return tuple(kit_from_line(line) for line in SHELF)


def load(database: Database, now: dt.datetime | None = None) -> int:
    """Store the shelf, the runs and the half-done plan of the demonstration, each once; how many runs were added.

    The plan began the day before `now`.
    """
    kit = shelf()
    with database.session() as session:
        if session.scalar(select(m.Kit.id).limit(1)) is None:
            add_all(session, kit, WARDEN)
        count = 0
        if session.scalar(select(m.Plan.id).limit(1)) is None:
            count += add_lending_plan(session, now or dt.datetime.now(dt.UTC))
            count += add_hut_plan(session, now or dt.datetime.now(dt.UTC))
        if session.scalar(select(m.Run.id).where(m.Run.origin == ORIGIN, m.Run.card_json.is_(None)).limit(1)) is None:
            for scene in SCENES:
                _add(session, scene, {item.label: item for item in kit}, now or dt.datetime.now(dt.UTC))
            count += len(SCENES)
        add_hut_packs(session, now or dt.datetime.now(dt.UTC))
        session.flush()
        add_hut_findings(session, now or dt.datetime.now(dt.UTC))
    return count


def _add(session: Session, scene: Scene, kit: dict[str, Kit], now: dt.datetime) -> None:
    charger = kit.get(scene.charger)
    if isinstance(charger, Pack):
        charger = as_charger(charger)
    phone, adapter, cable, case = (kit.get(x) for x in (scene.phone, scene.adapter, scene.cable, scene.case))
    meter, plug = kit["Inline A"], kit["Hut plug socket"] if scene.plugged else None
    assert plug is None or isinstance(plug, Meter)
    assert isinstance(phone, Phone) and isinstance(meter, Meter)
    chain = as_fed(
        Chain(
            adapter if isinstance(adapter, Adapter) else None,
            cable if isinstance(cable, Cable) else None,
            charger if isinstance(charger, Charger) else None,
            phone,
            case if isinstance(case, Case) else None,
        )
    )
    prepared = prepare(chain, scene.around)
    prepared = replace(prepared, scenario=scene.changed(prepared.scenario))
    new = NewRehearsal(
        chain, scene.around, scene.seed, meter, note=scene.note, by=WARDEN, zone=ZONE, origin=ORIGIN, socket=plug
    )
    days, at = BEGAN[scene.seed]
    zone = ZoneInfo(ZONE)
    day = now.astimezone(zone).date() - dt.timedelta(days=days)
    add_rehearsal(session, new, prepared).started_at = dt.datetime.combine(day, dt.time.fromisoformat(at), zone)
