"""The lane of a run, as it is kept: an alarm's advice stood in its text before."""

import datetime as dt
import unittest
import uuid

from sqlalchemy import text

from jaunecharge.documents.bench_record import BenchRecord, LineDocument
from jaunecharge.store.bench.entries import entry_said
from jaunecharge.store.bench_models import LaneEntry
from tests.serving import fresh_database

NOW = dt.datetime(2026, 11, 29, 8, 0, tzinfo=dt.UTC)


class OlderForms(unittest.TestCase):
    BEFORE = "46.0 °C at the phone\nStay by it."

    def test_an_alarm_that_a_run_keeps(self):
        line = {"t_s": 60.0, "at": NOW.isoformat(), "kind": "alarm", "unit": "hot", "text": self.BEFORE}
        note = {**line, "kind": "note", "text": "two\nlines"}
        found = BenchRecord.read({"lane": "A", "log": [line, note]}).log
        self.assertEqual((found[0].text, found[0].advice), tuple(self.BEFORE.split("\n")))
        self.assertEqual(entry_said(found[0]), "alarm: 46.0 °C at the phone. Stay by it.")
        self.assertEqual((found[1].text, found[1].advice), ("two\nlines", ""))

    def test_what_a_line_has_not_is_left_out(self):
        kept = BenchRecord(lane="A", log=[LineDocument(t_s=1.0, at=NOW, kind="placed")]).kept()
        self.assertEqual(set(kept["log"][0]), {"t_s", "at", "kind"})
        self.assertEqual(BenchRecord.read(kept).log[0].kind, "placed")

    def test_an_alarm_of_a_lane_that_is_open(self):
        lane, facts = uuid.uuid4(), {"at": NOW, "text": self.BEFORE}
        with fresh_database("0010") as database:
            with database.engine.begin() as connection:
                connection.execute(
                    text(
                        'INSERT INTO lanes (id, name, state, label, factors, "case", card, chain, setup, meter, probe,'
                        " meter_address, probe_address, speed, simulated, token, zone, opened_at, outcome, reason,"
                        " created_by, tick) VALUES (:id, 'A', 'running', 'x', '{}', '{}', '{}', '{}', '{}', '', '', '',"
                        " '', 1, false, 't', 'UTC', :at, '', '', '', 1)"
                    ),
                    {"id": lane, "at": NOW},
                )
                for kind in ("alarm", "note"):
                    connection.execute(
                        text(
                            'INSERT INTO lane_entries (id, lane_id, t_s, at, kind, unit, text, "by", corrected_by,'
                            " undone_by, tick) VALUES (:id, :lane, 1, :at, :kind, '', :text, '', '', '', 1)"
                        ),
                        {"id": uuid.uuid4(), "lane": lane, "kind": kind, **facts},
                    )
            database.migrate()
            with database.session() as session:
                found = {e.kind: (e.text, e.advice) for e in session.query(LaneEntry)}
        self.assertEqual(found, {"alarm": tuple(self.BEFORE.split("\n")), "note": (self.BEFORE, "")})


if __name__ == "__main__":
    unittest.main()
