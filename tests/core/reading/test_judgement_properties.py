"""What must hold of every reading, whatever the run: scaling, shifting, adding samples, cutting."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from jaunecharge.core.log.check_ins import Battery, CheckIns, make_check_ins
from jaunecharge.core.log.no_load import MOST_NO_LOAD_W
from jaunecharge.core.log.temperatures import HeatLog, Surface, heat_log
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.report.cautions import warnings
from jaunecharge.core.report.sentences import headline, sentences
from jaunecharge.formats.read.logs import temperatures
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand
from tests.other_runs import MECHANISMS, made_run

SEEDS = st.integers(0, len(MECHANISMS) * 3 - 1)
BATTERY = Conditions(battery=Battery(4400, 3.87))


def log_of(run, scale=1.0, shift_s=0.0, stop_s=np.inf, kelvin=0.0):
    """What was logged of a made run: watts scaled, the clock shifted, all cut off at a moment of its own clock."""
    kept, heat, seen = run.time_s <= stop_s, run.heat_s <= stop_s, run.checkin_s <= stop_s
    time_s, volts, amps = run.time_s[kept] + shift_s, run.volts[kept], run.amps[kept] * scale
    trace = power_trace(time_s, volts * amps, volts, amps)
    places = ["back"] * int(heat.sum())
    surfaces = (
        heat_log(places, run.heat_s[heat] + shift_s, run.celsius[heat] + kelvin, run.ambient_c) if places else None
    )
    readings = make_check_ins(run.checkin_s[seen] + shift_s, run.percent[seen]) if seen.any() else None
    return RunLog(trace, readings, surfaces)


def dips(reading):
    return [] if reading.judged is None else list(reading.judged.dips)


class Always(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(SEEDS, st.floats(0.7, 1.5))
    def test_scaled_watts_scale_energy_and_leave_causes_alone(self, seed, scale):
        run = made_run(seed)
        assume(run.no_load_w * scale < MOST_NO_LOAD_W - 0.1)
        plain, scaled = read_run(log_of(run), BATTERY), read_run(log_of(run, scale), BATTERY)
        self.assertAlmostEqual(
            scaled.energy_in.metered.value, scale * plain.energy_in.metered.value, delta=1e-9 * 100 * scale
        )
        self.assertEqual([d.cause for d in dips(scaled)], [d.cause for d in dips(plain)])

    @settings(max_examples=25, deadline=None)
    @given(SEEDS, st.floats(-1e6, 2e9))
    def test_a_shifted_clock_changes_nothing(self, seed, shift_s):
        run = made_run(seed)
        shift_s = round(shift_s)
        plain, shifted = read_run(log_of(run), BATTERY), read_run(log_of(run, shift_s=shift_s), BATTERY)
        self.assertAlmostEqual(shifted.placed_s - shift_s, plain.placed_s, delta=0.01)
        self.assertEqual([d.cause for d in dips(shifted)], [d.cause for d in dips(plain)])
        for a, b in zip(dips(shifted), dips(plain), strict=True):
            self.assertAlmostEqual(a.start_s - shift_s, b.start_s, delta=0.01)
        self.assertEqual([p.kind for p in shifted.judged.phases], [p.kind for p in plain.judged.phases])

    @settings(max_examples=25, deadline=None)
    @given(SEEDS, st.lists(st.floats(0.001, 0.999), min_size=1, max_size=200))
    def test_samples_added_by_interpolation_change_no_milestone(self, seed, shares):
        run = made_run(seed)
        more = np.sort(np.concatenate([run.time_s, np.array(shares) * run.time_s[-1]]))
        more = np.unique(more)
        watts = np.interp(more, run.time_s, run.volts * run.amps)
        readings = CheckIns(run.checkin_s, run.percent)
        plain = read_run(log_of(run), BATTERY)
        again = read_run(RunLog(power_trace(more, watts), readings), BATTERY)
        self.assertEqual([m.percent for m in again.milestones], [m.percent for m in plain.milestones])
        for a, b in zip(again.milestones, plain.milestones, strict=True):
            self.assertEqual((a.after_s, a.by_s), (b.after_s, b.by_s))
            for moment in ("earliest_s", "estimate_s", "latest_s"):
                self.assertAlmostEqual(getattr(a, moment), getattr(b, moment), delta=20.0)

    @settings(max_examples=60, deadline=None)
    @given(SEEDS, st.floats(0.01, 1.0))
    def test_a_run_cut_anywhere_is_read_and_says_only_what_it_still_shows(self, seed, share):
        run = made_run(seed)
        stop_s = max(run.placed_s + 5, share * run.time_s[-1])
        cut = read_run(log_of(run, stop_s=stop_s), BATTERY)
        self.assertIsInstance(headline(cut), str)
        self.assertTrue(sentences(cut) is not None and warnings(cut) is not None)
        for dip in dips(cut):
            self.assertLessEqual(dip.end_s, stop_s + 10)
            if dip.cause == "hold":
                self.assertGreaterEqual(dip.end_s - dip.start_s, 15 * 60 - 10)
            if dip.cause in {"heat", "heat_cutout"}:
                self.assertTrue(np.any(run.heat_s <= stop_s))
                self.assertGreater(dip.onset_c, 36.9)

    @settings(max_examples=25, deadline=None)
    @given(SEEDS)
    def test_without_its_temperatures_no_run_is_called_heat(self, seed):
        run = made_run(seed)
        log = log_of(run)
        blind = read_run(RunLog(log.trace, log.readings), BATTERY)
        self.assertFalse({"heat", "heat_cutout"} & {d.cause for d in dips(blind)})
        self.assertIsNone(blind.throttle)

    @settings(max_examples=10, deadline=None)
    @given(SEEDS)
    def test_a_heat_file_in_fahrenheit_reads_as_one_in_celsius(self, seed):
        run = made_run(seed)
        log = log_of(run)
        found = []
        for unit, values in (("C", run.celsius), ("F", run.celsius * 1.8 + 32.0)):
            rows = "".join(f"{t:.0f},back,{v:.3f}\n" for t, v in zip(run.heat_s, values, strict=True))
            with tempfile.NamedTemporaryFile("w", suffix=".csv") as file:
                file.write(f"time_s,position,temperature [°{unit}]\n{rows}")
                file.flush()
                source = examine(Path(file.name))
                read = temperatures(source, understand(source))
            heat = heat_log(list(read.places), run.heat_s, read.celsius, run.ambient_c)
            found.append(read_run(RunLog(log.trace, log.readings, heat), BATTERY))
        celsius, fahrenheit = found
        self.assertEqual([d.cause for d in dips(celsius)], [d.cause for d in dips(fahrenheit)])
        self.assertAlmostEqual(celsius.phone_heat.max_c, fahrenheit.phone_heat.max_c, places=2)

    @settings(max_examples=15, deadline=None)
    @given(SEEDS, st.floats(-0.3, 0.3))
    def test_a_second_cooler_place_changes_no_cause(self, seed, wobble):
        run = made_run(seed)
        log = log_of(run)
        back = log.heat.surfaces[0]
        front = Surface("front", back.time_s, back.celsius - 3.0 + wobble)
        both = read_run(RunLog(log.trace, log.readings, HeatLog((back, front), log.heat.ambient)), BATTERY)
        self.assertEqual([d.cause for d in dips(both)], [d.cause for d in dips(read_run(log, BATTERY))])
        self.assertEqual({h.position for h in both.heat}, {"back", "front"})


if __name__ == "__main__":
    unittest.main()
