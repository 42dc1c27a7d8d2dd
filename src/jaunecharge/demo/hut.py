"""The demonstration: a mountain-hut association tests bedside chargers for solar huts. All of it is invented."""

import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

from sqlalchemy import select

from ..core.generate import Generated, Recipe, generate
from ..formats.assemble import Part, assemble
from ..formats.case import Case
from ..formats.source import examine
from ..formats.tables_out import csv_text
from ..formats.understanding import understand
from ..store import models as m
from ..store.database import Database
from ..store.runs import FileRead, NewRun, add_run

ROLES = {"meter": "meter.csv", "checkins": "check-ins.csv", "heat": "heat.csv"}


@dataclass(frozen=True)
class Scene:
    """One run of the demonstration."""

    phone: str
    charger: str
    adapter: str
    recipe: Recipe
    seed: int
    claimed_w: float = 15.0
    case: str = "none"
    airflow: str = "still air"
    note: str = ""
    health: float | None = None

    @property
    def label(self) -> str:
        return f"{self.phone} on {self.charger}"


MINI, MAX, TARN, QUILL = 3350.0, 4700.0, 4400.0, 3900.0
DOCK = Recipe(
    ((0, 15.5),), MAX, kelvin_per_watt=1.5, hot_c=42.5, cool_c=40.5, throttled_w=9.0, ambient_c=25.0, tau_s=1100.0
)

SCENES = (
    Scene(
        "Ostrel Mini", "Cairn disc 15", "20 W",
        Recipe(((0, 19.0), (20, 15.0), (50, 12.0), (75, 8.0)), MINI, 2.0, knee_percent=88.0, interval_s=300.0), 11,
        health=0.97, note="Bunk room of hut 1, window shut.",
    ),
    Scene("Ostrel Max", "Serac dock 15", "20 W", DOCK, 12, note="Dock's fan left off: it wakes the guests."),
    Scene(
        "Ostrel Max", "Serac dock 15", "20 W",
        replace(DOCK, kelvin_per_watt=0.75, no_load_w=0.9, after_full_w=1.0), 13, airflow="charger's own fan",
    ),
    Scene(
        "Ostrel Max", "Moraine magnet pad", "20 W", Recipe(((0, 9.4),), MAX, 10.0, share=0.63), 14,
        note="Sold as 15 W. Magnets hold well.",
    ),
    Scene(
        "Ostrel Max", "Cairn disc 15", "20 W", Recipe(((0, 15.0),), MAX, 10.0, hold_percent=80.0), 15, case="thin case",
        note="Charge limit was still on.",
    ),
    Scene(
        "Tarn 9", "Larch twin stand", "30 W",
        Recipe(((0, 13.0),), TARN, no_load_w=3.0, after_full_w=3.0, share=0.66, tail_s=7200.0, ambient_c=22.0), 16,
    ),
    Scene(
        "Quill Lite", "Gully puck 10", "18 W",
        Recipe(((0, 8.5),), QUILL, 7.0, kelvin_per_watt=2.6, hot_c=41.0, cool_c=38.5, share=0.55, interval_s=900.0), 17,
        claimed_w=10.0, case="thick case",
    ),
    Scene(
        "Tarn 9", "Moraine magnet pad", "20 W",
        Recipe(
            ((0, 15.0),), TARN, slips=((1500, 70), (2600, 130), (4100, 45)), holes=((3000, 150), (5200, 90))
        ), 18, case="magnet ring", note="The ring does not sit flat; slipped off three times.",
    ),
    Scene("Tarn 9", "Cairn disc 15", "5 W", Recipe(((0, 6.4),), TARN, 8.0, volts=5.05, share=0.6), 19, health=0.92),
)  # fmt: skip


def load(database: Database) -> int:
    """Store the runs of the demonstration, once; how many were added."""
    with database.session() as session:
        if session.scalar(select(m.Run.id).where(m.Run.origin == "demo").limit(1)) is not None:
            return 0
        for scene in SCENES:
            with tempfile.TemporaryDirectory() as folder:
                add_run(session, _new_run(scene, Path(folder)))
    return len(SCENES)


def _new_run(scene: Scene, folder: Path) -> NewRun:
    made = generate(scene.recipe, scene.seed)
    parts = []
    for role, name in ROLES.items():
        path = folder / name
        path.write_text(_table(role, made), encoding="utf-8")
        source = examine(path)
        parts.append(Part(source, understand(source), (role,)))
    case = Case(
        capacity_mah=scene.recipe.capacity_mah,
        nominal_v=scene.recipe.nominal_v,
        battery_health=scene.health,
        claimed_w=scene.claimed_w,
        interval_min=scene.recipe.interval_s / 60.0,
    )
    return NewRun(
        label=scene.label,
        log=assemble(parts, case=case).log,
        case=case,
        factors={
            "phone": scene.phone,
            "charger": scene.charger,
            "adapter": scene.adapter,
            "case": scene.case,
            "airflow": scene.airflow,
            "phone_state": "idle",
        },
        files=tuple(FileRead(p.source.path, f"{scene.label} {p.source.name}", p.roles[0]) for p in parts),
        note=scene.note,
        origin="demo",
        zone="Europe/Zurich",
        by="hut warden",
    )


def _table(role: str, made: Generated) -> str:
    if role == "meter":
        columns = zip(made.time_s.tolist(), made.volts.tolist(), made.amps.tolist(), strict=True)
        return csv_text(("time_s", "volts", "amps"), columns)
    if role == "checkins":
        return csv_text(("time_s", "percent"), zip(made.checkin_s.tolist(), made.percent.tolist(), strict=True))
    rows = [(t, "back", c) for t, c in zip(made.heat_s.tolist(), made.back_c.tolist(), strict=True)]
    rows += [(t, "room", c) for t, c in zip(made.heat_s.tolist(), made.room_c.tolist(), strict=True)]
    return csv_text(("time_s", "position", "celsius"), rows)
