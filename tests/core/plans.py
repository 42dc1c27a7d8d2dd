"""Plans for tests: builders, random ones, and a validator and a brute force that share no code with the scheduler."""

import datetime as dt
import itertools
import math
import random
from dataclasses import replace
from zoneinfo import ZoneInfo

from jaunecharge.core.schedule.attended_hours import window
from jaunecharge.core.schedule.problem import Begun, Problem, Task

ZURICH = ZoneInfo("Europe/Zurich")
MONDAY = dt.datetime(2027, 3, 1, 8, tzinfo=ZURICH)
DAYTIME = (window("08:00", "22:00"),)


def task(name, phone="A", charger="c1", adapter="a1", minutes=170, attended=True, drain=150, cool=30, **more):
    needs = minutes if attended is True else attended or 0
    return Task(name, phone, charger, adapter, minutes, needs, drain, cool, **more)


def problem(*tasks, **more):
    return Problem(**{"start": MONDAY, "attended": DAYTIME, "tasks": tuple(tasks), "meters": 2, **more})


def random_problem(seed, most_runs=8):
    """A plan that can be kept: phones with drains of their own, shared chargers and adapters, gaps in the day."""
    r = random.Random(seed)
    phones = {p: (r.choice([0, 45, 100, 150, 200]), r.choice([0, 10, 30])) for p in "ABC"[: r.randint(1, 3)]}
    windows = r.choice([
        DAYTIME, (window("07:10", "12:00"), window("13:30", "21:00")), (window("18:00", "23:30"),),
        (window("20:00", "03:00"),), (window("08:00", "20:00", ["mon", "tue", "sat"]),),
    ])  # fmt: skip
    longest = min(((w.ends - w.begins) % 1440) or 1440 for w in windows)
    tasks = []
    for i in range(r.randint(1, most_runs)):
        phone = r.choice(list(phones))
        minutes = r.randint(20, min(240, longest))
        attended = r.choice([True, True, False, minutes // 2])
        drain, cool = phones[phone]
        charger, adapter = f"c{r.randint(1, 3)}", r.choice(["a1", "a2", ""])
        tasks.append(task(f"r{i}", phone, charger, adapter, minutes, attended, drain, cool))
    begun = r.random()
    if begun < 0.15:
        first = tasks[0]
        tasks[0] = task(first.id, first.phone, first.charger, first.adapter, first.minutes, first.attended_min,
                        first.drain_min, first.cool_min, begun=Begun(-first.drain_min - 50.0, -35.0, 95.0))  # fmt: skip
    elif begun < 0.3:
        first = tasks[0]
        tasks[0] = task(first.id, first.phone, first.charger, first.adapter, first.minutes, first.attended_min,
                        first.drain_min, first.cool_min, begun=Begun(-40.0))  # fmt: skip
    order = ()
    if begun >= 0.3 and r.random() < 0.3:
        order = tuple(r.sample([t.id for t in tasks], r.randint(1, len(tasks))))
    return problem(
        *tasks, attended=windows, meters=r.randint(1, 3), grid_min=r.choice([5, 15, 30]), order=order,
        at_once=r.choice([None, None, 1, 2]), copies=r.choice([{}, {"a1": 2}]),
        start=MONDAY + dt.timedelta(minutes=r.choice([0, 95, 600])),
    )  # fmt: skip


def with_packs(p, seed):
    """The same plan, some of its runs emptying packs: filled before, rested after."""
    r = random.Random(seed + 7)
    packs = {name: (r.choice([0, 60, 190, 400]), r.choice([0, 30, 75])) for name in ("p1", "p2")}
    tasks = []
    for t in p.tasks:
        name = "" if t.begun else r.choice(["", "p1", "p1", "p2"])
        fill, rest = packs.get(name, (0, 0))
        tasks.append(replace(t, pack=name, fill_min=fill, rest_min=rest))
    return replace(p, tasks=tuple(tasks))


def somebody_there(p, minutes):
    """Whether somebody is there at a moment: by the clock on the wall, not by the scheduler's spans."""
    moment = (p.start.astimezone(dt.UTC) + dt.timedelta(minutes=minutes)).astimezone(p.start.tzinfo)
    clock = moment.hour * 60 + moment.minute
    for w in p.attended:
        today, yesterday = moment.weekday() in w.days, (moment.weekday() - 1) % 7 in w.days
        if w.ends > w.begins and today and w.begins <= clock < w.ends:
            return True
        if w.ends < w.begins and ((today and clock >= w.begins) or (yesterday and clock < w.ends)):
            return True
    return False


def faults(p, schedule):
    """What a schedule does wrong; empty where it keeps every rule."""
    found, tasks = [], {t.id: t for t in p.tasks}
    slots = {s.id: s for s in schedule.slots}
    if sorted(slots) != sorted(tasks) or len(schedule.slots) != len(tasks):
        return ["not every run stands in it once"]
    for s in schedule.slots:
        t = tasks[s.id]
        if t.begun is not None and t.begun.drain_start != s.drain_start:
            found.append(f"{s.id}: what has begun was moved")
        if t.running:
            if s.start != t.begun.start:
                found.append(f"{s.id}: a run that goes on was moved")
            continue
        if s.start - s.drain_start < t.drain_min:
            found.append(f"{s.id}: begins before it is drained")
        if s.end != s.start + t.minutes or s.ready_again != s.end + t.cool_min:
            found.append(f"{s.id}: takes another time")
        if s.start % p.grid_min or (t.begun is None and s.drain_start % p.grid_min):
            found.append(f"{s.id}: off the grid")
        if s.start < 0 or (t.begun is None and s.drain_start < p.ready.get(t.phone, 0)):
            found.append(f"{s.id}: begins too early")
        if not somebody_there(p, s.start) or (t.begun is None and not somebody_there(p, s.drain_start)):
            found.append(f"{s.id}: begins with nobody there")
        if not all(somebody_there(p, s.start + k) for k in range(math.ceil(t.attended_min))):
            found.append(f"{s.id}: a check-in falls where nobody is there")
    for a, b in itertools.combinations(schedule.slots, 2):
        same = tasks[a.id].phone == tasks[b.id].phone
        if same and a.drain_start < b.ready_again and b.drain_start < a.ready_again:
            found.append(f"{a.id} and {b.id} on one phone at once, or it has not cooled")
    for s in schedule.slots:
        t = tasks[s.id]
        if not t.pack or t.running:
            continue
        if s.fill_start is None or s.start - s.fill_start < t.fill_min:
            found.append(f"{s.id}: its pack is not full")
        elif not somebody_there(p, s.fill_start):
            found.append(f"{s.id}: its pack is plugged in with nobody there")
        for other in schedule.slots:
            o = tasks[other.id]
            if (
                other.id != s.id
                and o.pack == t.pack
                and other.start <= s.start
                and s.fill_start < other.end + o.rest_min
            ):
                found.append(f"{s.id}: its pack is filled before it has rested from {other.id}")
    moments = sorted({s.start for s in schedule.slots})
    for at in moments:
        now = [tasks[s.id] for s in schedule.slots if s.start <= at < s.end]
        minded = [s for s in schedule.slots if s.start <= at < s.start + tasks[s.id].attended_min]
        if len(now) > p.meters:
            found.append(f"more runs than meters at {at}")
        if p.at_once is not None and len(minded) > p.at_once:
            found.append(f"more runs than one can mind at {at}")
        for kind in ("charger", "adapter"):
            for name in {getattr(t, kind) for t in now} - {""}:
                if sum(getattr(t, kind) == name for t in now) > p.copies.get(name, 1):
                    found.append(f"{name} twice at {at}")
    listed = [slots[i].start for i in p.order]
    if listed != sorted(listed):
        found.append("the order is not kept")
    for sequence in p.sequences:
        starts = [slots[i].start for i in sequence]
        if starts != sorted(starts):
            found.append("a phone's sequence is not kept")
    if schedule.makespan_min != max(s.end for s in schedule.slots):
        found.append("the end is not the last run's end")
    if schedule.bound_min > schedule.makespan_min:
        found.append("ends before its bound")
    return found


def soonest_by_brute_force(p):
    """The least end of a plan with nothing begun: runs put down as early as they go, in every order there is."""
    best = math.inf
    for order in itertools.permutations(p.tasks):
        ids = [t.id for t in order]
        if [i for i in ids if i in p.order] == list(p.order):
            best = min(best, _put_down(p, order, best))
    return best


def _put_down(p, order, best):
    done, ready, rested, ends, last_listed = [], {}, {}, 0.0, 0.0
    for t in order:
        drain = _next(p, ready.get(t.phone, 0), lambda m: True)
        earliest = drain + t.drain_min
        if t.pack:
            earliest = max(earliest, _next(p, rested.get(t.pack, 0), lambda m: True) + t.fill_min)
        if t.id in p.order:
            earliest = max(earliest, last_listed)

        def free(m, t=t):
            if not all(somebody_there(p, m + k) for k in range(0, math.ceil(t.attended_min), 5)):
                return False
            if t.attended_min and not somebody_there(p, m + t.attended_min - 1):
                return False
            return _room(p, done, t, m)

        start = _next(p, earliest, free)
        done.append((t, start))
        ready[t.phone] = start + t.minutes + t.cool_min
        rested[t.pack] = start + t.minutes + t.rest_min
        ends = max(ends, start + t.minutes)
        if ends >= best:
            return best
        if t.id in p.order:
            last_listed = start
    return ends


def _next(p, earliest, fits):
    at = math.ceil(earliest / p.grid_min) * p.grid_min
    while not (somebody_there(p, at) and fits(at)):
        at += p.grid_min
    return at


def _room(p, done, t, start):
    for at in [start, *(s for _, s in done if start < s < start + t.minutes)]:
        now = [d for d, s in done if s <= at < s + d.minutes]
        if len(now) + 1 > p.meters:
            return False
        for kind in ("charger", "adapter"):
            name = getattr(t, kind)
            if name and sum(getattr(d, kind) == name for d in now) + 1 > p.copies.get(name, 1):
                return False
        minded = [d for d, s in done if s <= at < s + d.attended_min]
        if p.at_once is not None and at < start + t.attended_min and len(minded) + 1 > p.at_once:
            return False
    return True
