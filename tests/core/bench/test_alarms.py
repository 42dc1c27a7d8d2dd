"""The watch rules: each comes on for its cause, says what to do, goes off again, and is quiet on usual runs."""

import unittest
from dataclasses import replace

import numpy as np

from jaunecharge.core.bench.alarms import RULES, changes, lower_class, watch
from jaunecharge.core.bench.seen import Seen
from jaunecharge.core.bench.so_far import SoFar
from jaunecharge.core.chain.check import Chain
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.log.pace import pace
from jaunecharge.core.simulator.circumstances import Circumstances, Event
from jaunecharge.core.simulator.rehearsal import rehearse
from jaunecharge.core.simulator.scenario import prepare
from tests.cases import checkins

PHONE = kit_from_line("phone Ostrel Max 4700mAh mpp wired 25W large magnets")
DISC = kit_from_line("puck Cairn disc mpp claims 15W asks 9V2.22A")
PLUG = kit_from_line("adapter Plug 20 20W")
WEAK = kit_from_line("adapter Old plug 5V2A")


def keys(seen, on=()):
    return {a.key for a in watch(seen, frozenset(on))}


def steady(watts, minutes=10.0, placed_s=0.0, **more):
    """A lane that draws so much, once a second."""
    time_s = np.arange(0.0, minutes * 60.0 + 1.0)
    values = np.full(len(time_s), float(watts)) if np.isscalar(watts) else np.asarray(watts, dtype=float)
    facts = {
        "now_s": float(time_s[-1]), "placed_s": placed_s, "time_s": time_s, "watts": values[: len(time_s)],
        "expected_w": 18.75, "class_w": 15.0, "no_load_w": 0.4, "metered": True,
    }  # fmt: skip
    return Seen(**(facts | more))


def warmed(celsius, step_s=30.0, **more):
    """A lane whose probe gave these, the last of them now."""
    values = np.asarray(celsius, dtype=float)
    times = np.arange(len(values)) * step_s
    minutes = times[-1] / 60.0
    return steady(18.0, max(minutes, 0.1), heat_s=times, celsius=values, now_s=float(times[-1]), **more)


class LowClass(unittest.TestCase):
    def test_not_past_the_lower_class_a_minute_after_placing(self):
        [alarm] = watch(steady(9.0, 1.1))
        self.assertEqual(alarm.key, "low class")
        self.assertIn("9.0 W where 18.8 W was expected, like 10 W", alarm.seen)
        self.assertIn("flip the cable", alarm.do)
        self.assertEqual(keys(steady(9.0, 0.8)), set(), "the ramp is let pass")
        self.assertEqual(keys(steady(17.0, 5)), set())

    def test_a_dead_phone_may_wake_first(self):
        self.assertEqual(keys(steady(4.0, 6, start_percent=0.0)), set())
        self.assertEqual(keys(steady(4.0, 9, start_percent=0.0)), {"low class"})

    def test_it_is_judged_early_and_stays_until_it_is_better(self):
        late = steady(9.0, 40, percents=[(0.0, 10.0), (2400.0, 45.0)])
        self.assertEqual(keys(late), set())
        self.assertEqual(keys(late, {"low class"}), {"low class"})
        self.assertEqual(keys(steady(15.5, 40), {"low class"}), set())
        self.assertEqual(keys(replace(late, percents=[(0.0, 70.0)]), {"low class"}), set())

    def test_classes(self):
        self.assertEqual([lower_class(w) for w in (25.0, 15.0, 10.0, 7.5)], [15.0, 10.0, 7.5, 5.0])


class Power(unittest.TestCase):
    def fallen(self, seconds, to=0.4):
        watts = np.full(601, 18.0)
        watts[601 - seconds :] = to
        return steady(watts)

    def test_lost_and_back(self):
        self.assertEqual(keys(self.fallen(15)), set())
        [alarm] = watch(self.fallen(71))
        self.assertEqual((alarm.key, alarm.seen), ("no power", "no power since 70 s"))
        self.assertIn("Seat the phone", alarm.do)
        self.assertEqual(keys(steady(18.0), {"no power"}), set())

    def test_a_level_at_which_phones_are_told_to_stop(self):
        [alarm] = watch(replace(self.fallen(200), percents=[(0.0, 60.0), (400.0, 80.0)]))
        self.assertIn("charge limit", alarm.do)

    def test_taken_off_on_purpose_or_full_is_no_loss(self):
        self.assertEqual(keys(replace(self.fallen(200), off=True)), set())
        self.assertNotIn("no power", keys(replace(self.fallen(200), percents=[(0.0, 100.0)])))

    def test_restarts(self):
        watts = np.full(601, 18.0)
        for start in (200, 330, 460):
            watts[start : start + 25] = 1.2
        [alarm] = watch(steady(watts))
        self.assertEqual((alarm.key, alarm.seen), ("restarts", "the power fell and came back 3 times in 15 min"))
        watts[460:485] = 18.0
        self.assertEqual(keys(steady(watts)), set())
        self.assertEqual(keys(steady(watts), {"restarts"}), {"restarts"}, "it takes more to go off again")

    def test_five_volts_where_nine_were_expected(self):
        [alarm] = watch(steady(18.0, 2, volts=5.1, expected_v=9.0))
        self.assertEqual((alarm.key, alarm.seen), ("low volts", "5.1 V where 9 V was expected"))
        self.assertEqual(keys(steady(18.0, 2, volts=8.7, expected_v=9.0)), set())


class Percent(unittest.TestCase):
    def test_stuck(self):
        rows = [(0.0, 40.0), (600.0, 47.0), (1200.0, 47.0), (1900.0, 47.0)]
        known = SoFar(paces=pace(checkins(*((t / 60, p) for t, p in rows))))
        [alarm] = watch(steady(17.0, 32, percents=rows, known=known))
        self.assertEqual(alarm.key, "stuck")
        self.assertIn("47 % for 22 min while 17.0 W", alarm.seen)
        early = SoFar(paces=pace(checkins((0, 40), (10, 47), (20, 47))))
        self.assertEqual(keys(steady(17.0, 32, percents=rows[:3], known=early)), set())
        idle = steady(1.0, 32, percents=rows, expected_w=None, known=known)
        self.assertEqual(keys(idle), set(), "hardly any power: no wonder")

    def test_the_end_by_each_method(self):
        rows = [(0.0, 10.0), (5000.0, 100.0)]
        full = steady(1.0, 90, percents=rows)
        self.assertIn("what it draws after full", watch(full)[0].do)
        self.assertIn("Leave it on", watch(replace(full, soak=True))[0].do)
        eighty = steady(15.0, 90, percents=[(0.0, 10.0), (5000.0, 81.0)], ends_at=80)
        [alarm] = watch(eighty)
        self.assertEqual((alarm.key, alarm.level), ("full", "note"))
        self.assertIn("take the phone off", alarm.do)


class Heat(unittest.TestCase):
    def test_warn_and_stop_and_back(self):
        self.assertEqual(keys(warmed([44.9] * 4)), set())
        self.assertEqual(keys(warmed([45.1] * 4)), {"hot"})
        self.assertEqual(keys(warmed([44.5] * 4), {"hot"}), {"hot"})
        self.assertEqual(keys(warmed([43.9] * 4), {"hot"}), set())
        [alarm] = watch(warmed([50.2] * 4))
        self.assertEqual((alarm.key, alarm.level), ("stop", "stop"))
        self.assertIn("Take the phone off", alarm.do)

    def test_too_steep(self):
        self.assertEqual(keys(warmed(np.linspace(30.0, 38.0, 8))), {"steep"})
        self.assertEqual(keys(warmed(np.linspace(33.0, 36.0, 8))), set())
        self.assertEqual(keys(warmed(np.linspace(24.0, 31.0, 8))), set(), "from the room up it may be quick")

    def test_the_probe_came_off(self):
        [alarm] = watch(warmed([38.0] * 20 + [36.0, 30.0]))
        self.assertEqual(alarm.key, "probe off")
        self.assertEqual(keys(warmed([38.0] * 20 + [37.5, 37.0])), set())
        lost = warmed([38.0] * 20 + [36.0, 30.0])
        self.assertNotIn("probe off", keys(replace(lost, watts=np.full(len(lost.watts), 0.4))))


class Silence(unittest.TestCase):
    def test_the_meter(self):
        seen = steady(18.0)
        self.assertEqual(keys(replace(seen, now_s=seen.now_s + 29.0)), set())
        self.assertEqual(keys(replace(seen, now_s=seen.now_s + 61.0)), {"meter silent"})
        self.assertEqual(keys(replace(seen, now_s=seen.now_s + 61.0, metered=False)), set(), "no meter, no silence")

    def test_the_probe(self):
        seen = warmed([30.0] * 4, probed=True)
        self.assertEqual(keys(replace(seen, metered=False, now_s=seen.now_s + 200.0)), {"probe silent"})


class Diff(unittest.TestCase):
    def test_each_fires_once_and_clears_itself(self):
        now = watch(steady(9.0, 2))
        fired, cleared = changes(frozenset(), now)
        self.assertEqual(([a.key for a in fired], cleared), (["low class"], []))
        self.assertEqual(changes(frozenset({"low class"}), now), ([], []))
        self.assertEqual(changes(frozenset({"low class"}), []), ([], ["low class"]))

    def test_every_rule_says_what_to_do(self):
        self.assertEqual(watch(Seen(now_s=0.0)), [])
        self.assertEqual(len(RULES), 17)


class UsualRuns(unittest.TestCase):
    """Simulated runs, watched minute by minute as a lane is."""

    def alarms(self, adapter=PLUG, around=Circumstances(), interval_min=10.0, expected=PLUG):
        made = prepare(Chain(adapter, None, DISC, PHONE), around)
        wanted = prepare(Chain(expected, None, DISC, PHONE), around)
        run = rehearse(made.scenario, 5, interval_min=interval_min)
        watts, told, on = run.volts * run.amps, [], frozenset()
        for now in np.arange(30.0, run.time_s[-1], 30.0):
            recent = (run.time_s > now - 900.0) & (run.time_s <= now)
            heat, checks = run.heat_s <= now, run.checkin_s <= now
            seen = Seen(
                now_s=now, placed_s=60.0 if now >= 60.0 else None, time_s=run.time_s[recent], watts=watts[recent],
                heat_s=run.heat_s[heat], celsius=run.back_c[heat],
                percents=list(zip(run.checkin_s[checks], run.percent[checks], strict=True)),
                expected_w=wanted.checked.meter_w.low, class_w=15.0, no_load_w=0.4,
                volts=run.volts[recent][-1], expected_v=9.0, metered=True, probed=True,
            )  # fmt: skip
            now_on = watch(seen, on)
            fired, _ = changes(on, now_on)
            told += [a.key for a in fired]
            on = frozenset(a.key for a in now_on)
        return told

    def test_a_usual_run_has_nothing_but_its_end(self):
        self.assertEqual(self.alarms(), ["full"])

    def test_a_warm_room_from_low(self):
        self.assertEqual(
            self.alarms(around=Circumstances(ambient_c=29.0, start_percent=5.0), interval_min=5.0), ["full"]
        )

    def test_a_slip_is_told_once(self):
        around = Circumstances(events=(Event("slip", 1500.0, 90.0),))
        self.assertEqual(self.alarms(around=around), ["no power", "full"])

    def test_a_weak_adapter_is_told_at_once(self):
        told = self.alarms(adapter=WEAK)
        self.assertEqual(told[:2], ["low volts", "low class"])

    def test_a_charge_limit_is_told(self):
        told = self.alarms(around=Circumstances(hold_percent=80.0))
        self.assertIn("no power", told)
