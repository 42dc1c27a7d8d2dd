"""Packs over the API: from the shelf to what came of them."""

import json
import uuid

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store.kit import add_all
from tests.serving import ServedTest

LINES = (
    "pack Col bank 10000mAh 3.7V 5V3A 9V2.22A mpp", "pack Moraine trail 27000mAh 3.6V 20V5A claims 100W",
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
        return next(r for r in self.web.get("/api/packs").json()["packs"] if r["label"] == label)

    def pack(self, label="Col bank"):
        return self.web.get(f"/api/packs/{label}").json()

    def keep(self, kind, label="Col bank", status=201, **facts):
        answer = self.web.post(f"/api/packs/{label}/tests", json={"kind": kind, **facts})
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()

    def charge(self, **change):
        return self.keep("charge", charge={**CHARGE, **change})

    def test_every_pack_of_the_shelf_stands_there_untested(self):
        rows = self.web.get("/api/packs").json()["packs"]
        self.assertEqual([r["label"] for r in rows], ["Col bank", "Moraine trail"])
        pack = rows[0]
        self.assertAlmostEqual(pack["rated_wh"], 37.0)
        self.assertEqual((pack["delivered"], pack["verdict"], pack["cabin"]), (None, "not tested yet", "cabin"))
        self.assertEqual([s["stand"] for s in pack["stages"]], ["printed", "estimated", "estimated", "estimated"])
        self.assertEqual([s["key"] for s in rows[1]["stages"]], ["rated", "socket", "phone"])

    def test_a_load_test_from_a_file(self):
        test = self.keep("load", upload=self.send())
        true = (5.05 * 870 + 10.0 * 900 + 14.85 * 5430) / 3600
        self.assertIn("Cut off after 2 h 00 under load", " ".join(s["text"] for s in test["sentences"]))
        self.assertEqual([round(s["amps"]) for s in test["steps"]], [1, 2, 3])
        [drawn] = test["traces"]
        self.assertEqual(len(drawn["minute"]), len(drawn["volts"]))
        self.assertAlmostEqual(test["cut_off"], 120, delta=0.2)
        pack = self.row()
        self.assertAlmostEqual(pack["delivered"]["value"], true, delta=0.05)
        self.assertGreater(pack["delivered"]["expanded"], 0)
        self.assertEqual(pack["stages"][1]["stand"], "measured")
        self.assertEqual(self.pack()["tests"][0]["said"], f"load test: {pack['delivered']['value']:.1f} Wh")
        self.assertEqual(self.web.get(f"/api/pack-tests/{test['id']}").json(), test)

    def test_a_charge_and_the_battery_of_a_phone_on_the_shelf(self):
        made = self.charge()
        self.assertEqual(made["document"]["charge"]["phone_mah"], 4620)
        self.assertIn("1.30 full charges", made["sentences"][0]["text"])
        pack = self.row()
        [charges] = pack["charges"]
        self.assertEqual((charges["phone"], charges["way"], round(charges["value"], 2)), ("Ostrel Max", "coil", 1.3))
        self.assertEqual(pack["stages"][-1]["stand"], "measured")
        self.assertIn("Ostrel Max by coil: 5 % to 100 %, the pack from 100 % to 27 %", self.pack()["tests"][0]["said"])
        self.charge(pack_after="2 lamps", by_cord=True)
        self.assertIn("by cord", self.row()["verdict"])
        said = " ".join(s["text"] for s in self.pack()["sentences"])
        self.assertIn("no difference shown", said)

    def test_off_a_display_with_what_was_seen(self):
        seen = {"loads": "0 A 20.1 V, 2 A 19.9 V, 4.1 A 19.65 V", "let_go_a": 4.4}
        notes = {"restart": "by its button", "modes": ["PPS"], "certified": False, "outlet": "USB-C"}
        test = self.keep("load", "Moraine trail", seen=seen, notes=notes)
        said = " ".join(s["text"] for s in test["sentences"])
        self.assertIn("let go at 4.40 A; it came back by its button", said)
        self.assertIn("Held 81 W of the 100 W that are claimed", said)
        self.assertTrue(any("not certified" in w for w in test["warnings"]))
        self.assertTrue(test["by_eye"])
        row = self.row("Moraine trail")
        self.assertEqual(row["verdict"], "lets go above *4.1 A* at 20 V: 81 W of the 100 claimed")
        self.assertEqual((row["delivered"], row["counts"]), (None, {"load": 1}))
        whole = self.keep("load", seen={"wh": 29.2, "minutes": 188, "emptied": True})
        self.assertIn("Cut off after 3 h 08", " ".join(s["text"] for s in whole["sentences"]))
        resistance = next(f for f in test["figures"] if f["key"] == "resistance")
        self.assertIn("20.100 V at 0.00 A", resistance["numbers"] + " 20.100 V at 0.00 A")
        self.assertGreater(resistance["expanded"], 0)

    def test_two_outputs_and_levels_of_its_gauge(self):
        notes = {"levels": [{"minute": 0, "level": "100"}, {"minute": 12, "level": "40"}]}
        test = self.keep("load", upload=self.send(), second_upload=self.send(), gauge_typed="0 100; 12 40")
        self.assertEqual(test["document"]["notes"]["levels"], notes["levels"])
        self.assertIn("Two outputs at once", " ".join(s["text"] for s in test["sentences"]))
        self.assertEqual([t["name"] for t in test["traces"]], ["", "the other output"])
        self.assertTrue(any("The gauge is not to be believed" in w for w in test["warnings"]))
        self.assertIn(", two outputs", test["said"])

    def test_a_recharge_and_its_round_trip(self):
        self.keep("load", upload=self.send())
        typed = {"before": "0", "minutes": 196, "wh": 41.3, "full": True, "accuracy_percent": 0.5}
        test = self.keep("recharge", recharge=typed)
        self.assertIn("of what was filled in comes out again", " ".join(s["text"] for s in test["sentences"]))
        self.assertIn("round_trip", [f["key"] for f in test["figures"]])
        log = "time_s,volts,amps\n" + "".join(f"{t},9.0,{1.8 if t < 6000 else 0.02}\n" for t in range(0, 7000, 10))
        read = self.keep("recharge", recharge={"before": "0"}, upload=self.send(log))
        self.assertTrue(read["document"]["recharge"]["full"])
        self.assertAlmostEqual(read["document"]["recharge"]["wh"], 27.0, delta=0.1)

    def test_standby_and_passing_through(self):
        test = self.keep("standby", standby={"first": "100", "last": "85", "days": 30})
        self.assertIn("Loses 0.50 ± 0.02 points a day", test["sentences"][0]["text"])
        self.keep("standby", status=422, standby={"first": "50", "last": "85", "days": 30})
        into = "time_s,watts\n" + "".join(f"{t},12\n" for t in range(0, 3000, 10))
        out = "time_s,volts,amps\n" + "".join(f"{t},5.0,{1 if t < 1500 else 2}\n" for t in range(0, 3000, 10))
        test = self.keep("pass_through", upload=self.send(into), second_upload=self.send(out))
        self.assertEqual([round(a["share"], 2) for a in test["by_load"]], [0.42, 0.83])
        self.keep("pass_through", status=422, upload=self.send(into))
        self.keep("pass_through", status=422, passed={"in_wh": 10})

    def test_a_phone_that_gives(self):
        readings = [{"minute": m, "giver": g, "taker": t} for m, g, t in ((0, 84, 12), (60, 58, 34))]
        test = self.keep("phone_to_phone", "Ostrel Max", given={"taker": "Ostrel Max", "readings": readings})
        self.assertIn("gains 0.85 points for each", test["sentences"][0]["text"])
        [giver] = self.web.get("/api/packs").json()["givers"]
        self.assertEqual((giver["label"], len(giver["tests"])), ("Ostrel Max", 1))
        self.assertEqual(self.web.get(f"/api/pack-tests/{test['id']}").json(), test)
        typed = self.keep("phone_to_phone", "Ostrel Max", given={"taker": "B", "typed": "0 84 12; 1:00 58 34"})
        self.assertEqual(typed["document"]["given"]["readings"], test["document"]["given"]["readings"])
        self.keep("phone_to_phone", "Col bank", status=404, given={"readings": readings})
        for text in ("0 84 12", "now 84 12", "0 84; 60 58", "0 84 12; 60 158 34", ""):
            self.keep("phone_to_phone", "Ostrel Max", status=422, given={"typed": text})

    def test_phones_in_turn_until_it_is_empty(self):
        self.charge(pack_after="40")
        self.charge(pack_before="40", pack_after="0", phone_after=62)
        pack = self.pack()
        said = " ".join(s["text"] for s in pack["sentences"])
        self.assertIn("in_turn", [f["key"] for f in pack["figures"]])
        self.assertIn("2 phones in turn", said)
        self.assertIn("ran empty with the last one at 62 %", said)

    def test_hours_before_the_test_and_the_table_of_charges(self):
        hours = self.web.get("/api/packs/Col bank/hours", params={"watts": 50}).json()
        self.assertEqual((hours["basis"], round(hours["hours"], 3)), ("usual", round(37 * 0.75 / 50, 3)))
        self.charge()
        table = self.web.get("/api/packs/charges").json()
        self.assertEqual(table["phones"], ["Ostrel Max"])
        cells = {(r["pack"], c["way"]): c["basis"] for r in table["rows"] for c in r["cells"]}
        self.assertEqual(
            cells,
            {("Col bank", "coil"): "measured", ("Col bank", "cord"): "rating", ("Moraine trail", "cord"): "rating"},
        )

    def test_every_figure_says_how_it_is_worked_out(self):
        self.keep("load", upload=self.send())
        figures = self.pack()["figures"]
        self.assertEqual([f["key"] for f in figures][:3], ["rated", "cabin", "socket"])
        self.assertTrue(all(f["formula"] and f["numbers"] and f["source"] for f in figures))
        told = {s["key"] for s in self.pack()["sentences"]}
        self.assertLessEqual(told, {f["key"] for f in figures})

    def test_a_test_is_laid_aside_and_brought_back(self):
        made = self.charge()
        self.assertEqual(self.web.delete(f"/api/pack-tests/{made['id']}").status_code, 200)
        self.assertEqual(self.pack()["tests"], [])
        self.assertEqual(self.web.post(f"/api/pack-tests/{made['id']}/restored").status_code, 200)
        self.assertEqual(len(self.pack()["tests"]), 1)

    def test_what_cannot_be_is_refused_with_the_mend(self):
        for change, words in (
            ({"pack_after": "100", "pack_before": "20"}, "went up"),
            ({"pack_after": "5 lamps"}, "5 lamps of 4"),
            ({"pack_after": "half"}, "write 75, or 3 lamps"),
            ({"phone_after": 5, "phone_before": 80}, "from 80 % to 5 %"),
        ):
            refused = self.keep("charge", status=422, charge={**CHARGE, **change})
            self.assertIn(words, str(refused))
        for kind in ("load", "charge", "standby", "phone_to_phone"):
            label = "Ostrel Max" if kind == "phone_to_phone" else "Col bank"
            self.assertIn("nothing was typed", str(self.keep(kind, label, status=422)))
        self.assertIn("nothing was read", str(self.keep("load", status=422, seen={})))
        watts = "time_s,watts\n" + "".join(f"{t},10\n" for t in range(100))
        self.assertIn("log volts and amps", str(self.keep("load", status=422, upload=self.send(watts))))
        twice = LOAD + LOAD.split("\n", 1)[1]
        self.assertIn("two packs, or a recharge between", str(self.keep("load", status=422, upload=self.send(twice))))
        for label in ("Serac dock", "nobody"):
            self.keep("charge", label, status=404, charge=CHARGE)
        self.assertEqual(self.web.get(f"/api/pack-tests/{uuid.uuid4()}").status_code, 404)

    def test_a_label_may_have_a_stroke_in_it(self):
        with self.database.session() as session:
            add_all(session, [kit_from_line("pack Bank 5/10 hut 10000mAh 3.7V mpp")], "")
        self.keep("charge", "Bank 5%2F10 hut", charge=CHARGE)
        self.assertEqual(len(self.pack("Bank 5%2F10 hut")["tests"]), 1)
        self.assertEqual(self.web.get("/api/packs/Bank 5%2F10 hut/hours", params={"watts": 5}).status_code, 200)

    def test_a_pack_of_five_lamps(self):
        with self.database.session() as session:
            add_all(session, [kit_from_line("pack Five 10000mAh 3.7V mpp 5 lamps 212g")], "")
        made = self.keep("charge", "Five", charge={**CHARGE, "pack_after": "3 lamps"})
        self.assertIn("to 3 of 5 lamps", made["said"])
        self.assertIn("this pack has 5", str(self.keep("charge", "Five", 422, charge={**CHARGE, "pack_after": "2/4"})))
        self.assertEqual((self.row("Five")["grams"], self.row("Five")["lamps"]), (212, 5))

    def send_file(self, content, name="table.csv", status=201, pack="Col bank"):
        answer = self.web.post("/api/packs/files", params={"name": name, "pack": pack}, content=content.encode())
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()

    def test_whatever_file_is_sent(self):
        kept = self.send_file(LOAD, "load.csv")
        self.assertEqual((kept["holds"], len(kept["tests"])), ("load test", 1))
        table = "pack,phone,pack before,pack after,phone before,phone after,way\n"
        table += "Col bank,Ostrel Max,100,27,5,100,coil\nnobody,Ostrel Max,100,27,5,100,coil\n"
        table += ",Ostrel Max,100,9,5,90,cord\n"
        kept = self.send_file(table)
        self.assertEqual((kept["holds"], len(kept["tests"]), len(kept["left_out"])), ("charges", 2, 1))
        self.assertIn("row 3", kept["left_out"][0])
        self.assertEqual(self.row()["counts"], {"load": 1, "charge": 2})
        self.assertIn("mend the rows", str(self.send_file(table.replace("Col bank", "x"), status=422, pack="nobody")))

    def test_out_and_back_in(self):
        self.keep("load", upload=self.send())
        self.charge()
        before = self.pack()
        out = self.web.get("/api/exports/packs.json").text
        kept = self.send_file(out, "packs.json")
        self.assertEqual((kept["holds"], kept["tests"], kept["here"]), ("tests", [], 2))
        with self.database.session() as session:
            session.connection().exec_driver_sql("DELETE FROM pack_tests")
        kept = self.send_file(out, "packs.json")
        self.assertEqual((len(kept["tests"]), kept["here"], kept["left_out"]), (2, 0, []))
        self.assertEqual(self.pack(), before)
        self.assertEqual(self.web.get("/api/exports/packs.json").text, out)
        lines = self.web.get("/api/exports/packs.csv").text.splitlines()
        self.assertEqual((len(lines), lines[0][:10]), (3, "pack,kind,"))
        self.assertEqual(self.web.get("/api/exports/packs.xlsx").content[:2], b"PK")
        # The table for spreadsheets comes back as well, as far as it holds charges; what is here counts once.
        table = self.web.get("/api/exports/packs.csv").text
        self.assertEqual(self.send_file(table, "packs.csv")["here"], 1)
        with self.database.session() as session:
            session.connection().exec_driver_sql("DELETE FROM pack_tests WHERE kind = 'charge'")
        again = self.send_file(table, "packs.csv")
        self.assertEqual((again["holds"], len(again["tests"]), again["left_out"]), ("charges", 1, []))
        self.assertEqual([t["said"] for t in self.pack()["tests"]], [t["said"] for t in before["tests"]])
        # A file that lies about what was delivered does not get into a list with it.
        told = json.loads(out)
        for test in told["tests"]:
            test["id"] = str(uuid.uuid4())
            if test["document"]["kind"] == "load":
                test["document"]["load"]["delivered_wh"] = 36.9
        self.send_file(json.dumps(told), "packs.json")
        self.assertLess(self.row()["delivered"]["value"], 30)

    def test_a_plan_of_pack_tests(self):
        self.assertIsNone(self.web.get("/api/packs/plan").json())
        self.assertNotIn("BEGIN:VEVENT", self.web.get("/api/exports/pack-plan.ics").text)
        wanted = [
            {"pack": "Col bank", "method": "Full to empty at one load"},
            {"pack": "Col bank", "method": "Empty to full"},
            {"pack": "Moraine trail", "method": "Load in steps"},
        ]  # fmt: skip
        new = {"wanted": wanted, "start": "2027-03-01T08:00:00+01:00", "zone": "Europe/Zurich", "attended": [{}]}
        made = self.web.post("/api/packs/plan", json=new)
        self.assertEqual(made.status_code, 201, made.text)
        plan = made.json()
        self.assertEqual([t["done"] for t in plan["tests"]], [False] * 3)
        self.assertTrue(all(t["attended"] for t in plan["tests"]))
        calendar = self.web.get("/api/exports/pack-plan.ics").text
        self.assertIn("Plug Col bank in", calendar)
        self.keep("load", upload=self.send())
        shown = self.web.get("/api/packs/plan").json()
        self.assertEqual([t["method"] for t in shown["tests"] if t["done"]], ["Full to empty at one load"])
        self.assertNotIn("Plug Col bank in", self.web.get("/api/exports/pack-plan.ics").text)
        for change in (
            {"wanted": [{"pack": "nobody", "method": "Load in steps"}]}, {"wanted": []},
            {"wanted": [{"pack": "Col bank", "method": "Left unused"}]}, {"attended": [{"begins": "x"}]},
            {"wanted": [{"pack": "Col bank", "method": "From dead"}]}, {"meters": 0}, {"zone": "Nowhere/Land"},
        ):  # fmt: skip
            self.assertIn(self.web.post("/api/packs/plan", json={**new, **change}).status_code, (404, 422), change)
        # What cannot be made lets the one that stands be.
        self.assertEqual(len(self.web.get("/api/packs/plan").json()["tests"]), 3)
        self.assertEqual(self.web.delete("/api/packs/plan").status_code, 200)
        self.assertEqual(len(self.web.post("/api/packs/plan/restored").json()["tests"]), 3)
        self.assertEqual(self.web.delete("/api/packs/plan").status_code, 200)
        self.assertIsNone(self.web.get("/api/packs/plan").json())
