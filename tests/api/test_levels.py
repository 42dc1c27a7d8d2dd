"""The level that a phone sends by itself: in every form, each once, where it belongs in time, never mixed with the
meter's watts."""

import datetime as dt
import time
import uuid

from sqlalchemy import select

from jaunecharge.instruments.faults import fault
from jaunecharge.instruments.playback import Playback
from jaunecharge.instruments.posting import Poster
from jaunecharge.instruments.reporting_phone import ReportingPhone
from jaunecharge.store import models as m
from jaunecharge.store.runs.logs import load_log
from jaunecharge.store.runs.runs import get_run
from tests.api.test_bench import BenchTest
from tests.instruments.playing import scenario


class Levels(BenchTest):
    def setUp(self):
        super().setUp()
        self.lane = self.open()
        self.path = f"/api/hand/{self.token(self.lane)}/level"

    def send(self, expect=200, **how):
        answer = self.web.post(self.path, **how)
        self.assertEqual(answer.status_code, expect, answer.text)
        return answer.json()

    def known(self, *levels):
        """Wait until the lane shows these levels, and no others."""
        wanted = [float(x) for x in levels]

        def there():
            return [p for _, p in self.reported()] == wanted

        self.until(there, f"{wanted} are not there: {self.reported()}")

    def reported(self):
        with self.database.session() as session:
            query = select(m.Base.metadata.tables["lane_readings"]).where(
                m.Base.metadata.tables["lane_readings"].c.lane_id == uuid.UUID(self.lane["id"])
            )
            rows = session.execute(query).all()
        return sorted((r.t_s, r.percent) for r in rows if r.percent is not None)

    def test_as_query_form_and_json(self):
        for how in (
            {"params": {"percent": 47}}, {"data": {"percent": "47"}}, {"json": {"percent": 47}},
            {"json": {"percent": "47 %"}}, {"files": {"percent": (None, "47")}}, {"content": b"percent=47"},
            {"params": {"percent": 20}, "json": {"percent": 47}},
        ):  # fmt: skip
            with self.subTest(str(how)):
                logged = self.send(**how)
                self.assertEqual(
                    (logged["committed"], logged["percent"], logged["lane"]), (True, 47.0, self.lane["name"])
                )
                self.assertEqual(logged["said"], ["battery 47 %"])

    def test_with_all_that_it_may_hold(self):
        logged = self.send(params={"percent": "61", "celsius": "31,5", "mv": 4100, "ma": 1500, "colour": "red"})
        self.assertEqual(logged["said"], ["battery 61 %", "back 31.5 °C", "phone says 6.15 W"])
        self.assertEqual(logged["left_out"], ["colour"])
        view = self.until(lambda: (v := self.view(self.lane))["percent"] == 61.0 and v, "it is not shown")
        # The phone's own watts are none of the meter's.
        self.assertIsNone(view["watts"])
        self.assertEqual((view["hottest_c"], view["phone_w"]), (31.5, 6.15))

    def test_sent_twice_it_counts_once(self):
        at = dt.datetime.now(dt.UTC).isoformat()
        for how in ({"id": "a1"}, {"at": at}, {"at": at, "id": "b"}):
            with self.subTest(how):
                self.assertFalse(self.send(json={"percent": 47, **how})["duplicate"])
                self.assertTrue(self.send(data={"percent": "47", **how})["duplicate"])
        # Under one id the first counts.
        self.assertTrue(self.send(json={"percent": 90, "id": "a1"})["duplicate"])
        # Without a number and a time nothing says that it is the same.
        self.assertFalse(self.send(json={"percent": 48})["duplicate"])
        self.assertFalse(self.send(json={"percent": 48})["duplicate"])
        self.assertEqual([p for _, p in self.reported()], [47.0, 47.0, 47.0, 48.0, 48.0])

    def test_where_a_time_belongs(self):
        opened = dt.datetime.fromisoformat(self.lane["opened_at"])
        now = dt.datetime.now(dt.UTC)
        for at in (now.isoformat(), now.timestamp(), str(now.timestamp() * 1000.0), now.isoformat().replace("T", " ")):
            with self.subTest(at):
                logged = self.send(json={"percent": 50, "at": at})
                told = dt.datetime.fromisoformat(logged["at"])
                self.assertLess(abs((told - max(now, opened)).total_seconds()), 0.01)
                self.assertEqual(logged["remark"], "")

    def test_a_clock_an_hour_off_is_told_on_the_lane_and_nothing_is_lost(self):
        now = dt.datetime.now(dt.UTC)
        hour = dt.timedelta(hours=1)
        for n, how in enumerate(({"at": now + hour}, {"at": now - hour}, {"at": now + hour, "sent": now + hour})):
            logged = self.send(json={"percent": 50 + n} | {k: v.isoformat() for k, v in how.items()})
            self.assertTrue(logged["remark"])
            told = dt.datetime.fromisoformat(logged["at"])
            self.assertLess(abs((told - now).total_seconds()), 20.0)
        self.assertEqual([p for _, p in self.reported()], [50.0, 51.0, 52.0])
        log = self.web.get(f"/api/lanes/{self.lane['id']}/log").json()
        said = [e["said"] for e in log if e["kind"] == "source"]
        self.assertEqual(len(said), 3)
        self.assertTrue(any("1 h 00 ahead of the bench's" in s for s in said), said)

    def test_what_cannot_be_is_refused_and_says_why(self):
        for how, words in (
            ({"json": {"percent": 140}}, "percent (140"), ({"json": {}}, "percent"),
            ({"data": {"percent": "full"}}, "full"), ({"json": {"percent": 47, "celsius": 300}}, "celsius"),
            ({"json": {"percent": 47, "at": "yesterday"}}, "at"),
            ({"json": {"percent": 47, "at": "1e400"}}, "at"), ({"json": [47]}, "no JSON object"),
            ({"content": b'{"percent": 47', "headers": {"content-type": "application/json"}}, "no JSON object"),
            ({"content": b'{"percent": NaN}'}, "no figure"), ({"content": b"percent=\xff"}, "percent"),
            ({"json": {"percent": True}}, "percent"), ({"json": {"percent": 47, "watts": 5000}}, "watts"),
            ({"json": {"percent": 47, "id": "x" * 300}}, "id"),
        ):  # fmt: skip
            with self.subTest(words):
                answer = self.web.post(self.path, **how)
                self.assertEqual(answer.status_code, 422, answer.text)
                self.assertIn(words, answer.text)
        self.assertEqual(self.reported(), [])

    def test_a_stand_in_of_a_phone_reports_each_change_once_and_catches_up_after_silence(self):
        playback = Playback(scenario(), time.monotonic, 120.0)
        quiet = (fault("silence@240+240"),)
        phone = ReportingPhone(playback, Poster(self.address), self.token(self.lane), faults=quiet)
        playback.place()
        phone.start()
        self.until(lambda: len({p for _, p in self.reported()}) >= 8, "it does not report")
        phone.stop()
        stored = self.reported()
        self.assertEqual(len(stored), len(phone.sent))
        opened = dt.datetime.fromisoformat(self.lane["opened_at"])
        for (t_s, percent), (at, said) in zip(stored, phone.sent, strict=True):
            self.assertEqual(percent, said)
            self.assertAlmostEqual(t_s, (at - opened).total_seconds(), delta=0.01)

    def test_a_token_that_is_over_or_never_was(self):
        self.type(self.lane["name"], "end void done")
        for path in (self.path, "/api/hand/nothing/level"):
            answer = self.web.post(path, json={"percent": 47})
            self.assertEqual((answer.status_code, answer.json()["title"]), (401, "The lane has ended"))

    def test_the_run_holds_each_level_the_phone_s_watts_and_whether_it_charged(self):
        name = self.lane["name"]
        self.type(name, "placed")
        opened = dt.datetime.fromisoformat(self.lane["opened_at"])
        sent = [(0.5, 20, True), (0.6, 20, True), (0.7, 21, True), (0.8, 21, False), (0.9, 22, True)]
        start = dt.datetime.now(dt.UTC)
        for n, (_, percent, charging) in enumerate(sent):
            self.send(json={"percent": percent, "charging": charging, "watts": 5 + n, "id": str(n)})
        ended = self.type(name, "end")
        with self.database.session() as session:
            log = load_log(session, get_run(session, uuid.UUID(ended["run"])))
        self.assertFalse(log.trace.metered)
        self.assertEqual(sorted(set(log.readings.percent.tolist())), [20.0, 21.0, 22.0])
        self.assertEqual([c for _, c in log.besides.charging], [True, True, False, True])
        self.assertEqual(log.besides.watts.tolist(), [5.0, 6.0, 7.0, 8.0, 9.0])
        said = [s["text"] for s in self.web.get(f"/api/runs/{ended['run']}").json()["sentences"]]
        self.assertTrue(any("The phone itself said once that it does not charge" in s for s in said), said)
        self.assertTrue(any("The phone itself reports" in s for s in said), said)
        self.assertGreaterEqual(log.readings.time_s.min(), (start - opened).total_seconds() - 60.0)
