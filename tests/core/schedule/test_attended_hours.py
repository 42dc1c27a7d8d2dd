"""Attended hours against the clock on the wall, minute by minute, in zones with and without clock changes."""

import datetime as dt
import itertools
import unittest
from zoneinfo import ZoneInfo

from hypothesis import given, settings
from hypothesis import strategies as st

from jaunecharge.core.schedule.attended_hours import (
    DAYS,
    Window,
    attended_spans,
    minute_of_day,
    minutes_between,
    moment_at,
    window,
)

ZONES = ("Europe/Zurich", "America/St_Johns", "Asia/Kathmandu", "Australia/Lord_Howe", "UTC")
windows = st.builds(
    Window,
    begins=st.integers(0, 1439),
    ends=st.integers(1, 1440),
    days=st.frozensets(st.integers(0, 6), min_size=1),
).filter(lambda w: w.begins != w.ends)
# Days around the clock changes of 2027 in those zones, and others.
starts = st.builds(
    lambda day, hour, zone: dt.datetime(2027, 1, 1, hour, 7, tzinfo=ZoneInfo(zone)) + dt.timedelta(days=day),
    st.sampled_from([0, 71, 85, 92, 300, 302, 308, 364]),
    st.integers(0, 23),
    st.sampled_from(ZONES),
)


def there(w, start, minute):
    """Whether somebody is there by the clock on the wall; no code of the scheduler."""
    local = (start.astimezone(dt.UTC) + dt.timedelta(minutes=minute)).astimezone(start.tzinfo)
    clock, today, yesterday = local.hour * 60 + local.minute, local.weekday(), (local.weekday() - 1) % 7
    if w.ends > w.begins:
        return today in w.days and w.begins <= clock < w.ends
    return (today in w.days and clock >= w.begins) or (yesterday in w.days and clock < w.ends)


class Spans(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(windows, starts)
    def test_they_say_what_the_clock_on_the_wall_says(self, w, start):
        spans = attended_spans([w], start, 3 * 1440)
        wrong = []
        for minute in range(0, 3 * 1440, 7):
            inside = any(begins <= minute < ends for begins, ends in spans)
            if inside != there(w, start, minute):
                wrong.append(minute)
        # In the hour that a clock change leaves out or repeats the clock on the wall is no measure.
        changes = {m for m in range(3 * 1440 + 180) if _changes(start, m)}
        self.assertEqual([m for m in wrong if not any(abs(m - c) <= 120 for c in changes)], [])

    @settings(max_examples=60, deadline=None)
    @given(st.lists(windows, min_size=1, max_size=4), starts)
    def test_they_are_in_order_and_apart(self, many, start):
        spans = attended_spans(many, start, 4 * 1440)
        flat = [x for s in spans for x in s]
        self.assertEqual(flat, sorted(flat))
        self.assertTrue(all(a[1] < b[0] for a, b in itertools.pairwise(spans)))

    @settings(max_examples=40, deadline=None)
    @given(starts, st.floats(-2000, 5000))
    def test_moments_and_minutes_are_each_others_inverse(self, start, minutes):
        self.assertAlmostEqual(minutes_between(start, moment_at(start, minutes)), minutes, places=4)
        self.assertEqual(moment_at(start, minutes).tzinfo, start.tzinfo)


def _changes(start, minute):
    a, b = (moment_at(start, minute + k).utcoffset() for k in (0, 1))
    return a != b


class Typed(unittest.TestCase):
    def test_midnight_at_either_end(self):
        self.assertEqual((minute_of_day("00:00"), minute_of_day("24:00"), minute_of_day(" 7:05 ")), (0, 1440, 425))
        whole = window("00:00", "24:00")
        start = dt.datetime(2027, 3, 1, 9, tzinfo=ZoneInfo("UTC"))
        [only] = attended_spans([whole], start, 1440)
        self.assertLess(only[0], 0)
        self.assertGreater(only[1], 1440)

    def test_said_as_typed(self):
        self.assertEqual(window("08:00", "22:00").said, "08:00 to 22:00")
        self.assertEqual(window("18:00", "02:00", DAYS[:2]).said, "18:00 to 02:00 on Mon, Tue")
