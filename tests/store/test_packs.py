"""Tests of packs in the store: older ones after an upgrade, a pack that is renamed, the figures that lists use."""

import datetime as dt
import json
import unittest
import uuid

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.documents.pack_test import ChargeRead, LoadSeen
from jaunecharge.store.kit import add_all, by_label, change_piece
from jaunecharge.store.pack_listing import listed
from jaunecharge.store.packs import keep, of_pack, pack_of, tests
from tests.serving import fresh_database

AT = dt.datetime(2027, 3, 1, tzinfo=dt.UTC)
CHARGE = ChargeRead(phone="Max", phone_mah=4620, phone_v=3.87, pack_before="100", pack_after="27", phone_before=5,
                    phone_after=100)  # fmt: skip


class Upgraded(unittest.TestCase):
    def test_tests_of_the_first_version_are_listed(self):
        with fresh_database("0012") as database:
            load = {"version": 1, "kind": "load", "rated_mah": 10000, "cell_v": 3.7,
                    "load": {"delivered_wh": 29.2, "expanded_wh": 0.3, "at_least": False, "file": "x.csv"}}  # fmt: skip
            charge = {"version": 1, "kind": "charge", "rated_mah": 10000, "cell_v": 3.7, "charge": CHARGE.model_dump()}
            with database.session() as session:
                for document in (load, charge):
                    session.connection().exec_driver_sql(
                        "INSERT INTO pack_tests (id, pack, kind, document, by, at) VALUES (%s, 'Col', %s, %s, '', %s)",
                        (uuid.uuid4(), document["kind"], json.dumps(document), AT),
                    )
            database.migrate()
            with database.session() as session:
                found = listed(session)["col"]
                self.assertEqual([wh.value for wh, _ in found.loads], [29.2])
                self.assertAlmostEqual(found.charges[0].charges.value, 95 / 73)
                self.assertEqual(found.counts, {"load": 1, "charge": 1})


class Listed(unittest.TestCase):
    def setUp(self):
        self.database = self.enterContext(fresh_database())
        with self.database.session() as session:
            add_all(session, [kit_from_line("pack Col 10000mAh 3.7V mpp")], "")

    def keep(self, session, minutes=0, **facts):
        return keep(
            session, "Col", of_pack(pack=pack_of(session, "Col"), **facts), AT + dt.timedelta(minutes=minutes), ""
        )

    def test_the_few_that_count(self):
        with self.database.session() as session:
            for n, (wh, emptied) in enumerate(((29.0, True), (28.0, True), (12.0, False))):
                self.keep(session, n, kind="load", seen=LoadSeen(wh=wh, emptied=emptied))
            self.keep(session, 4, kind="load", seen=LoadSeen(loads="0 A 5.1 V, 2 A 5 V", let_go_a=2.5))
            for n, after in enumerate(("27", "4 lamps", "30")):
                self.keep(session, 10 + n, kind="charge", charge=CHARGE.model_copy(update={"pack_after": after}))
            found = listed(session, "COL")["col"]
        self.assertEqual([(wh.value, least) for wh, least in found.loads], [(28.0, False), (12.0, True)])
        self.assertEqual(found.held, (2.0, 5.0))
        [one] = found.charges
        # The narrowest of three stands for them; four lamps of a pack that gave leave no upper end.
        self.assertEqual((one.times, round(one.charges.value, 2)), (3, 1.3))
        self.assertEqual(found.counts, {"load": 4, "charge": 3})

    def test_a_pack_that_is_renamed_keeps_its_tests(self):
        with self.database.session() as session:
            self.keep(session, kind="charge", charge=CHARGE)
            piece = by_label(session, "Col")
            change_piece(session, piece.id, piece.revision, kit_from_line("pack Col bank 10000mAh 3.7V mpp"))
            self.assertEqual(len(tests(session, "Col bank")), 1)
            self.assertEqual(listed(session)["col bank"].counts, {"charge": 1})
