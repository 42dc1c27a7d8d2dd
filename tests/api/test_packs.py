"""Packs over the API: from the shelf to what came of them."""

import uuid

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store.kit import add_all
from tests.serving import ServedTest

LINES = (
    "pack Col bank 10000mAh 3.7V 5V3A 9V2.22A mpp", "pack Moraine trail 27000mAh 3.6V 20V5A",
    "phone Ostrel Max 4620mAh mpp wired 25W", "charger Serac dock mpp",
)  # fmt: skip
LOAD = "time_s,volts,amps\n" + "".join(
    f"{t},{v},{a}\n"
    for t, v, a in [
        *((t, 5.10, 0.0) for t in range(0, 30, 5)),
        *((t, 5.05, 1.0) for t in range(30, 900, 5)),
        *((t, 5.00, 2.0) for t in range(900, 1800, 5)),
        *((t, 4.95, 3.0) for t in range(1800, 7230, 5)),
        *((t, 0.0, 0.0) for t in range(7230, 7300, 5)),
    ]
)
CHARGE = {
    "phone": "Ostrel Max", "pack_before": "100", "pack_after": "27 %", "phone_before": 5,
    "phone_after": 100,
}  # fmt: skip


class Packs(ServedTest):
    def setUp(self):
        super().setUp()
        with self.database.session() as session:
            for table in ("pack_tests", "kit"):
                session.connection().exec_driver_sql(f"DELETE FROM {table}")
            add_all(session, [kit_from_line(line) for line in LINES], "")

    def send(self, content=LOAD):
        answer = self.web.post("/api/uploads", params={"name": "load.csv"}, content=content.encode())
        self.assertEqual(answer.status_code, 201, answer.text)
        return answer.json()["id"]

    def row(self, label="Col bank"):
        return next(r for r in self.web.get("/api/packs").json() if r["label"] == label)

    def test_every_pack_of_the_shelf_stands_there_untested(self):
        rows = self.web.get("/api/packs").json()
        self.assertEqual([r["label"] for r in rows], ["Col bank", "Moraine trail"])
        pack = rows[0]
        self.assertAlmostEqual(pack["rated_wh"], 37.0)
        self.assertEqual((pack["delivered"], pack["verdict"], pack["cabin"]), (None, "not tested yet", "cabin"))
        self.assertEqual([s["stand"] for s in pack["stages"]], ["printed", "estimated", "estimated", "estimated"])
        self.assertEqual([s["key"] for s in rows[1]["stages"]], ["rated", "socket", "phone"])

    def test_a_load_test_from_a_file(self):
        made = self.web.post("/api/packs/Col bank/loads", json={"upload": self.send()})
        self.assertEqual(made.status_code, 201, made.text)
        test = made.json()
        true = (5.05 * 870 + 10.0 * 900 + 14.85 * 5430) / 3600
        self.assertIn("Cut off after 2 h 00 under load", " ".join(s["text"] for s in test["sentences"]))
        self.assertEqual([round(s["amps"]) for s in test["steps"]], [1, 2, 3])
        self.assertEqual(len(test["minute"]), len(test["volts"]))
        self.assertAlmostEqual(test["cut_off"], 120, delta=0.2)
        pack = self.row()
        self.assertAlmostEqual(pack["delivered"]["value"], true, delta=0.05)
        self.assertGreater(pack["delivered"]["expanded"], 0)
        self.assertEqual(pack["stages"][1]["stand"], "measured")
        self.assertEqual(pack["tests"][0]["said"], f"load test: {pack['delivered']['value']:.1f} Wh")
        self.assertEqual(self.web.get(f"/api/pack-tests/{test['id']}").json(), test)

    def test_a_charge_and_the_battery_of_a_phone_on_the_shelf(self):
        made = self.web.post("/api/packs/col bank/charges", json=CHARGE)
        self.assertEqual(made.status_code, 201, made.text)
        self.assertEqual(made.json()["document"]["charge"]["phone_mah"], 4620)
        self.assertIn("1.30 full charges", made.json()["sentences"][0]["text"])
        pack = self.row()
        [charges] = pack["charges"]
        self.assertEqual((charges["phone"], charges["way"], round(charges["value"], 2)), ("Ostrel Max", "coil", 1.3))
        self.assertEqual(pack["stages"][-1]["stand"], "measured")
        self.assertIn("Ostrel Max by coil: 5 % to 100 %, the pack from 100 % to 27 %", pack["tests"][0]["said"])
        lamps = {**CHARGE, "pack_after": "2 lamps", "by_cord": True}
        self.assertEqual(self.web.post("/api/packs/Col bank/charges", json=lamps).status_code, 201)
        self.assertIn("by cord", self.row()["verdict"])

    def test_a_test_is_laid_aside_and_brought_back(self):
        made = self.web.post("/api/packs/Col bank/charges", json=CHARGE).json()
        self.assertEqual(self.web.delete(f"/api/pack-tests/{made['id']}").status_code, 200)
        self.assertEqual(self.row()["tests"], [])
        self.assertEqual(self.web.post(f"/api/pack-tests/{made['id']}/restored").status_code, 200)
        self.assertEqual(len(self.row()["tests"]), 1)

    def test_what_cannot_be_is_refused_with_the_mend(self):
        for change, words in (
            ({"pack_after": "100", "pack_before": "20"}, "went up"),
            ({"pack_after": "5 lamps"}, "5 lamps of 4"),
            ({"pack_after": "half"}, "write 75, or 3 lamps"),
            ({"phone_after": 5, "phone_before": 80}, "from 80 % to 5 %"),
        ):
            answer = self.web.post("/api/packs/Col bank/charges", json={**CHARGE, **change})
            self.assertEqual(answer.status_code, 422, answer.text)
            self.assertIn(words, answer.text)
        watts = "time_s,watts\n" + "".join(f"{t},10\n" for t in range(100))
        answer = self.web.post("/api/packs/Col bank/loads", json={"upload": self.send(watts)})
        self.assertEqual((answer.status_code, "log volts and amps" in answer.text), (422, True))
        for path in ("/api/packs/Serac dock/charges", "/api/packs/nobody/charges"):
            self.assertEqual(self.web.post(path, json=CHARGE).status_code, 404)
        self.assertEqual(self.web.get(f"/api/pack-tests/{uuid.uuid4()}").status_code, 404)
