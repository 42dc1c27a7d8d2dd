"""Levels that a phone reports by itself: where they belong in time, and when its silence is told."""

import unittest

from jaunecharge.core.bench.lane_log import Recorded
from jaunecharge.core.bench.level_reports import phone_side_w, stamped
from jaunecharge.core.bench.seen import Seen
from jaunecharge.core.bench.silence import gap_said, phone_silent, report_every_s, report_gaps
from jaunecharge.core.log.phone_reports import besides, not_charging, not_charging_said
from jaunecharge.store.bench.ending import silences

HOUR_S = 3600.0


class InTime(unittest.TestCase):
    def test_without_a_time_it_counts_from_when_it_arrives(self):
        self.assertEqual(stamped(120.0).at_s, 120.0)

    def test_a_stated_time_is_taken_as_it_is(self):
        for sent_s in (None, 121.0):
            with self.subTest(sent_s=sent_s):
                stamp = stamped(121.0, 60.0, sent_s)
                self.assertEqual((stamp.at_s, stamp.odd), (60.0, ""))

    def test_kept_over_an_outage_it_stays_where_it_was_read(self):
        """Sent 20 minutes later, by a clock that is right: nothing is odd."""
        self.assertEqual(stamped(1500.0, 300.0, 1499.5), stamped(300.0, 300.0))

    def test_a_clock_an_hour_off_is_told_and_the_age_counts(self):
        for off_s, words in ((HOUR_S, "1 h 00 ahead of"), (-HOUR_S, "1 h 00 behind")):
            with self.subTest(words):
                # Read 20 minutes before it was sent.
                stamp = stamped(1500.0, 300.0 + off_s, 1500.0 + off_s)
                self.assertEqual((stamp.at_s, stamp.odd), (300.0, "off"))
                self.assertIn(words, stamp.said)

    def test_without_the_time_of_sending_a_clock_ahead_counts_from_the_arrival(self):
        stamp = stamped(60.0, 60.0 + HOUR_S)
        self.assertEqual((stamp.at_s, stamp.odd), (60.0, "ahead"))

    def test_stamped_before_the_lane_was_opened_it_counts_from_the_arrival(self):
        stamp = stamped(60.0, 60.0 - HOUR_S)
        self.assertEqual((stamp.at_s, stamp.odd), (60.0, "before"))
        self.assertIn("59 min before the lane was opened", stamp.said)

    def test_late_and_unexplained_it_stays_and_is_told(self):
        stamp = stamped(HOUR_S, 600.0)
        self.assertEqual((stamp.at_s, stamp.odd), (600.0, "late"))
        self.assertIn("50 min after the time that it states", stamp.said)

    def test_nothing_is_read_after_it_arrived(self):
        self.assertEqual(stamped(100.0, 120.0, 121.0).at_s, 100.0)


class Watts(unittest.TestCase):
    def test_from_the_battery_s_volts_and_amps(self):
        self.assertAlmostEqual(phone_side_w(None, 4100.0, 1500.0), 6.15)
        self.assertAlmostEqual(phone_side_w(None, 4100.0, -500.0), -2.05)

    def test_as_stated_first_and_none_without_both(self):
        self.assertEqual(phone_side_w(7.0, 4100.0, 1500.0), 7.0)
        self.assertIsNone(phone_side_w(None, 4100.0, None))


class Silence(unittest.TestCase):
    def silent(self, every_s, last_s, now_s):
        seen = Seen(now_s=now_s, placed_s=0.0, reported_s=last_s, report_every_s=every_s)
        return phone_silent(seen, False)

    def test_who_reports_each_minute_is_silent_after_three(self):
        self.assertIsNone(self.silent(60.0, 600.0, 770.0))
        alarm = self.silent(60.0, 600.0, 800.0)
        self.assertEqual((alarm.key, alarm.seen), ("phone silent", "the phone has not reported for 3 min"))

    def test_who_reports_changes_alone_is_never_called_silent(self):
        """A phone that steps every 90 s says nothing for many minutes near full, and nothing is wrong."""
        changes = [(90.0 * i, 20.0 + i) for i in range(60)]
        self.assertIsNone(report_every_s(changes))
        self.assertIsNone(self.silent(None, changes[-1][0], changes[-1][0] + 3600.0))

    def test_how_often_is_told_where_the_level_stands_still(self):
        """Each minute, and besides at once with each change."""
        reports = sorted(
            [*((60.0 * i, 20.0 + i // 3) for i in range(30)), *((180.0 * i + 20.0, 20.0 + i) for i in range(10))]
        )
        self.assertLessEqual(report_every_s(reports), 60.0)
        self.assertGreaterEqual(report_every_s(reports), 20.0)


class Gaps(unittest.TestCase):
    def test_where_a_steady_report_broke_off(self):
        reports = [(60.0 * n, 20.0 + n // 4) for n in (*range(30), *range(58, 80))]
        self.assertEqual(report_gaps(reports), [(29 * 60.0, 58 * 60.0)])
        self.assertIn("from minute 24 to 53", gap_said(report_gaps(reports)[0], 300.0))

    def test_changes_alone_have_no_gaps(self):
        self.assertEqual(report_gaps([(600.0 * n, 90.0 + n) for n in range(10)]), [])

    def test_they_are_said_of_the_run_from_its_placing_on(self):
        recorded = [Recorded(60.0 * n, percent=20.0) for n in (*range(10), *range(30, 40), *range(60, 70))]
        self.assertEqual(len(silences(recorded, 0.0)), 2)
        [one] = silences(recorded, 45 * 60.0)
        self.assertIn("from minute 0 to 15", one)
        self.assertEqual(silences(recorded, 65 * 60.0), [])


class NotCharging(unittest.TestCase):
    def test_from_its_first_word_to_its_last_and_no_longer(self):
        """It says so twice, is silent for two hours, then charges: of those hours nothing is known."""
        told = besides(
            charging=[(0.0, True), (60.0, False), (90.0, False), (120.0, False), (7320.0, True), (7400.0, False)]
        )
        self.assertEqual(not_charging(told), [(60.0, 120.0), (7400.0, 7400.0)])
        self.assertIn("2 times that it does not charge, for *1 min* or more", not_charging_said(not_charging(told))[0])

    def test_said_once_it_has_no_length(self):
        said = not_charging_said(not_charging(besides(charging=[(5.0, False)])))[0]
        self.assertEqual(said, "The phone itself said once that it does not charge")

    def test_never_where_it_always_charged_or_never_said(self):
        self.assertEqual(not_charging(besides(charging=[(0.0, True), (9.0, True)])), [])
        self.assertEqual(not_charging(besides()), [])
