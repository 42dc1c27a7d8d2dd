"""Random benches with known truth, made by equations that are not the product's: phones, chargers, conditions, repeats,
runs that are odd, prices that are not known; and what a finding may say of them, worked out from the raw numbers."""

from dataclasses import dataclass, field

import numpy as np
from scipy import stats

from jaunecharge.core.findings import ClaimTyped, Material, OutputSeen, WantedRun, read_question
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.log.check_ins import CheckIns
from jaunecharge.core.measured import Measured, Part
from jaunecharge.core.versus.contender import Contender, Course, Power, Warm

TIERS = ("mpp", "mpp@12", "epp", "bpp", "epp@10")
CASES = ("none", "thin case", "")
QUESTIONS = (
    "Which is fastest to 80 %?", "Which is fastest to 80 %, and stays under 43 °C?", "Which is fastest to full?",
    "Which stays under 39 °C to 60 %?", "Which takes least?",
)  # fmt: skip


@dataclass
class RawRun:
    """A run as raw numbers. minutes, percent : check-ins; watts, celsius : a value a minute after placing, or None."""

    key: str
    phone: str
    charger: str
    minutes: list[float]
    percent: list[float]
    watts: list[float] | None
    celsius: list[float] | None
    room_c: float | None


@dataclass
class Bench:
    """A material, and the raw numbers beneath it by key of the run; price of each charger."""

    material: Material
    raw: dict[str, RawRun] = field(default_factory=dict)
    prices: dict[str, tuple[float, str]] = field(default_factory=dict)


def bench(seed: int) -> Bench:
    """One random bench."""
    rng = np.random.default_rng([seed, 77])
    phones = {}
    for n in range(int(rng.integers(1, 4))):
        label = f"Phone {chr(65 + n)}"
        phones[label.casefold()] = kit_from_line(
            f"phone {label} {int(rng.integers(28, 52)) * 100}mAh {rng.choice(TIERS)}"
        )
    chargers, prices, speed = {}, {}, {}
    for n in range(int(rng.integers(1, 5))):
        label = f"Charger {n + 1}"
        claim = " claims 15W" if rng.random() < 0.6 else ""
        chargers[label.casefold()] = kit_from_line(f"charger {label} mpp{claim}")
        if rng.random() < 0.75:
            prices[label] = (float(rng.integers(10, 90)), "EUR" if rng.random() < 0.9 else "CHF")
        # Some are of one make: a difference that is none must not be told.
        speed[label] = 1.0 if rng.random() < 0.5 else float(rng.uniform(0.6, 1.5))
    raw, runs, outputs = {}, [], {}
    kind = rng.choice(["percent", "read by eye", "logged"])
    interval = float(rng.choice([1.0, 5.0, 10.0, 15.0]))
    spread = float(rng.choice([0.0, 0.02, 0.06]))
    for phone in phones.values():
        base = phone.capacity_mah / 40.0 * float(rng.uniform(0.8, 1.3))
        for charger in chargers.values():
            for repeat in range(int(rng.integers(0, 4))):
                key = f"{phone.label}/{charger.label}/{repeat}"
                made = _run(
                    rng, key, phone.label, charger.label, base * speed[charger.label], spread, interval, str(kind)
                )
                raw[key] = made
                runs.append(_contender(rng, made, interval, prices.get(charger.label), phone.capacity_mah))
                if made.watts is not None:
                    watts = max(made.watts) / 1.25
                    met = None if rng.random() < 0.2 else bool(watts >= 15.0)
                    outputs[key] = OutputSeen(
                        Measured(watts, (Part("ratio", 0.05 * watts),)), charger.claimed_w, met,
                        "the phone takes less" if met is None else "",
                        Measured(float(rng.uniform(0.1, 0.6)), (Part("counts", 0.02),)) if rng.random() < 0.5 else None,
                    )  # fmt: skip
    claims = []
    if len(chargers) > 1:
        text = str(
            rng.choice(["20 to 35 % faster", "60 % in 45 minutes", "never over 40 °C", "10 minutes sooner", "12 W"])
        )
        claims.append(ClaimTyped("Charger 1", text, "Charger 2"))
    wanted = [
        WantedRun(p.label, "Charger 1", bool(rng.random() < 0.5), 200.0) for p in phones.values() if rng.random() < 0.2
    ]
    question = read_question(str(rng.choice(QUESTIONS)))
    audience = str(rng.choice(["buyer", "association", "engineer"]))
    material = Material(question, audience, runs, phones, chargers, outputs, wanted=wanted, claims=claims)
    return Bench(material, raw, prices)


def _run(rng, key, phone, charger, to_full_min, spread, interval, kind) -> RawRun:
    length = to_full_min * float(np.exp(rng.normal(0.0, spread)))
    start = float(rng.choice([0, 5, 10, 10, 10, 35]))
    stops = float(rng.choice([100, 100, 80, 62]))
    # The first 80 points go at one pace, the rest at a third of it.
    at, minutes, percent = 0.0, [], []
    while len(minutes) < 400:
        gained = at / length * 120.0
        level = start + gained if start + gained < 80 else 80 + (gained - (80 - start)) / 3
        minutes.append(at)
        percent.append(float(np.floor(min(level, 100.0))))
        if percent[-1] >= stops:
            break
        at += interval * float(rng.uniform(0.9, 1.1))
    watts = celsius = None
    room = float(rng.choice([22.0, 23.0, 24.0, 28.0])) if rng.random() < 0.85 else None
    steps = int(minutes[-1]) + 2
    if kind == "logged":
        level = float(rng.uniform(6.0, 20.0))
        watts = (level + rng.normal(0, 0.1, steps)).tolist()
    if kind != "percent" and rng.random() < 0.8:
        top = float(rng.uniform(30.0, 47.0))
        celsius = (25.0 + (top - 25.0) * (1 - np.exp(-np.arange(steps) / 20.0))).tolist()
    return RawRun(key, phone, charger, minutes, percent, watts, celsius, room)


def _contender(rng, made: RawRun, interval, price, capacity) -> Contender:
    air = "still air" if rng.random() < 0.9 else "charger's own fan"
    case = str(rng.choice(CASES, p=[0.8, 0.1, 0.1]))
    factors = {"phone": made.phone, "charger": made.charger, "case": case, "airflow": air, "phone_state": "idle"}
    if rng.random() < 0.05:
        factors.pop("charger")
    factors = {k: v for k, v in factors.items() if v}
    times = np.array(made.minutes) * 60.0
    course = Course(
        CheckIns(times, np.array(made.percent)),
        None if made.watts is None else Power(1.0, np.array(made.watts), 0.005),
        warm=None if made.celsius is None else Warm(
            max(made.celsius), None if made.room_c is None else max(made.celsius) - made.room_c,
            int(np.argmax(made.celsius)) + 0.5, 1.0, np.array(made.celsius),
        ),
        room_c=made.room_c,
    )  # fmt: skip
    return Contender(
        made.key, made.key, factors, course, made.room_c, interval_min=interval, capacity_mah=capacity,
        prices={} if price is None else {"charger": price}, simulated=bool(rng.random() < 0.03),
        outcome="void" if rng.random() < 0.05 else "",
    )  # fmt: skip


def reached(run: RawRun, percent: float) -> tuple[float, float]:
    """Between which minutes a percentage was reached, by the check-ins alone."""
    if run.percent[0] == percent:
        return run.minutes[0], run.minutes[0]
    n = next(i for i, p in enumerate(run.percent) if p >= percent)
    return run.minutes[n - 1], run.minutes[n]


def lap_bounds(run: RawRun, window: tuple[float, float]) -> tuple[float, float]:
    """The least and the most minutes that a run can have taken over a window."""
    a, b = reached(run, window[0]), reached(run, window[1])
    return max(0.0, b[0] - a[1]), b[1] - a[0]


def surely_noise(minutes: tuple[float, float], runs: tuple[int, int]) -> float:
    """Minutes below which no difference of two means may be told, whatever else is known: 1.96 standard deviations at
    the least spread that the rule can come to, a third of the assumed 6 % or so, and no interval at all."""
    least = 0.06 * (4.0 / (4.0 + sum(runs) + 60.0)) ** 0.5
    return float(stats.norm.ppf(0.975)) * least * (minutes[0] ** 2 / runs[0] + minutes[1] ** 2 / runs[1]) ** 0.5
