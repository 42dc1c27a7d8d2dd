"""Kit as it is typed: fields, one line, and what is wrong with them."""

import unittest

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.fields import FIELDS, Flawed, item_from, texts_of
from jaunecharge.core.kit.items import KINDS, Charger, Price
from jaunecharge.core.kit.one_line import kit_from_line, typed_fields

LINES = (
    "phone Ostrel Mini 3350mAh 3.87V mpp@12 epp wired 20W small magnets 97%",
    "charger Cairn disc 15 mpp puck claims 15W asks 9V2.22A 45 EUR fan 5.6mm",
    "adapter Plug 20 20W",
    "adapter Plug 45 5V3A 9V3A 15V3A PPS3.3-11V3A 29EUR",
    "adapter Old laptop usb3",
    "cable Braided 3A 1.5m",
    "pack Col bank 10 10000mAh 3.7V mpp 5V3A",
    "meter Inline 0.5%",
    "probe Bead 0.5K thermistor",
    "case Thin 1.2mm magnets",
)


def flaws_of(kind, **texts):
    try:
        item_from(kind, texts)
    except Flawed as error:
        return {f.field: f for f in error.flaws}
    return {}


def asked_of(line):
    try:
        kit_from_line(line)
    except Flawed as error:
        return {f.field: f.what for f in error.flaws}
    return {}


class AsPeopleType(unittest.TestCase):
    """Standards by name, signs of money, figures apart from their units; nothing goes into the label unseen."""

    def test_standards_by_the_name_on_the_box(self):
        for typed, profile, claimed in (
            ("Qi2", "mpp", None),
            ("qi2 15W", "mpp", 15.0),
            ("15 W Qi2", "mpp", 15.0),
            ("Qi2 25W", "mpp25", 25.0),
            ("Qi2.1 15 watts", "mpp", 15.0),
            ("Qi 2", "mpp", None),
            ("Qi", "bpp", None),
            ("Qi 5W", "bpp", 5.0),
            ("Qi 15W", "epp", 15.0),
            ("Qi v1.3", "bpp", None),
            ("Qi 10W", "epp=10W", 10.0),
            ("own:glide 30W", "own:glide=30W", None),
        ):
            with self.subTest(typed):
                charger = kit_from_line(f"charger Moor disc {typed}")
                self.assertEqual((charger.label, [str(t) for t in charger.pads[0].gives]), ("Moor disc", [profile]))
                self.assertEqual(charger.claimed_w, claimed)

    def test_more_than_a_standard_gives_is_said(self):
        self.assertIn("does not give 40 W", asked_of("charger Moor disc Qi2 40W")["pads"])

    def test_money_as_it_is_written(self):
        for typed in ("$45", "45$", "45 $", "45 USD", "USD 45", "45USD"):
            with self.subTest(typed):
                charger = kit_from_line(f"charger Moor disc Qi2 {typed}")
                self.assertEqual((charger.label, charger.price), ("Moor disc", Price(45.0, "USD")))
        self.assertEqual(kit_from_line("cable Red 12,50 € 2 m").price, Price(12.5, "EUR"))
        self.assertEqual(kit_from_line("cable Red £9 3 A").amps, 3.0)

    def test_figures_apart_from_their_units(self):
        phone = kit_from_line("phone Tarn 9 4,360 mAh Qi2 wired 20 W 8.1 mm")
        self.assertEqual(
            (phone.label, phone.capacity_mah, phone.wired_w, phone.thickness_mm), ("Tarn 9", 4360, 20, 8.1)
        )
        pack = kit_from_line("pack Col bank 10000 mAh 3.7 V 9V 2.22A 5V/3A Qi2 claims 15W")
        self.assertEqual((pack.label, pack.rated_mah, pack.cell_v, pack.claimed_w), ("Col bank", 10000, 3.7, 15))
        self.assertEqual([str(p) for p in pack.outputs], ["9V2.22A", "5V3A"])
        adapter = kit_from_line("adapter Plug 9V\u23932.22A, 5V\u23933A")
        self.assertEqual([str(p) for p in adapter.profiles], ["9V2.22A", "5V3A"])
        self.assertEqual(kit_from_line("meter Inline ±0.5 %").gain_percent, 0.5)

    def test_the_cell_voltage_follows_from_wh_and_mah(self):
        self.assertEqual(kit_from_line("pack Col bank 10000mAh 37 Wh Qi2").cell_v, 3.7)
        self.assertEqual(kit_from_line("pack Col bank 37Wh 3.7V Qi2").rated_mah, 10000.0)
        self.assertEqual(asked_of("pack Col bank 10000mAh Qi2")["cell_v"], "What is its cell voltage?")
        self.assertIn("from how many mAh", asked_of("pack Col bank 37Wh Qi2")["line"])
        self.assertIn("rated_mah", asked_of("pack Col bank rated_mah:many 37Wh Qi2"))
        self.assertIn("50 Wh, or 37", asked_of("pack Col bank 10000mAh 3.7V 50Wh Qi2")["line"])

    def test_places_of_one_charger(self):
        charger = kit_from_line("charger Moor trio phone: Qi2 15W; watch: own:crown 3W, buds: Qi")
        self.assertEqual(charger.label, "Moor trio")
        self.assertEqual(
            [(p.place, [str(t) for t in p.gives]) for p in charger.pads],
            [("phone", ["mpp"]), ("watch", ["own:crown=3W"]), ("buds", ["bpp"])],
        )

    def test_what_could_be_several_things_is_asked_about(self):
        self.assertEqual(asked_of("charger Moor disc 15W wireless"), {"pads": "15 W by which standard?"})
        self.assertEqual(asked_of("phone Tarn 4360mAh wireless 12W"), {"accepts": "12 W by which standard?"})
        self.assertEqual(
            asked_of("pack Col bank 10000mAh 3.7V 15W"), {"line": "15W of a pack: by coil, by wire or claimed?"}
        )
        self.assertEqual(asked_of("cable Red 60W"), {"line": "What is 60W of a cable?"})
        self.assertEqual(
            asked_of("phone Tarn Qi2")["capacity_mah"], "How many mAh has its battery?"
        )  # fmt: skip

    def test_a_word_behind_the_figures_is_asked_about(self):
        self.assertEqual(asked_of("charger Moor disc Qi2 15W magnetic"), {"line": "What is “magnetic”?"})
        self.assertEqual(asked_of("cable Red 3A 1.5m woven"), {"line": "What is “woven”?"})
        for line in ('charger Moor disc Qi2 weight:"80 g"', "charger Moor disc weight:80 Qi2", 'charger "A" "B" Qi2'):
            self.assertIn("What is “", asked_of(line)["line"], line)
        self.assertEqual(kit_from_line("charger Wireless slab Qi2").label, "Wireless slab")
        first = kit_from_line("charger 15W Qi2 Moor disc $45")
        self.assertEqual((first.label, first.claimed_w), ("Moor disc", 15.0))

    def test_an_answer_takes_the_question_away(self):
        charger = kit_from_line("charger Moor disc 15W wireless Qi2")
        self.assertEqual((charger.label, charger.claimed_w), ("Moor disc", 15.0))

    def test_an_unknown_accuracy_is_unknown(self):
        self.assertIsNone(kit_from_line("meter Inline").gain_percent)
        self.assertEqual(kit_from_line("probe Peak").sensor, "not known")
        self.assertEqual(kit_from_line("probe Peak thermal camera").sensor, "thermal camera")


class OneLine(unittest.TestCase):
    def test_a_phone(self):
        phone = kit_from_line(LINES[0])
        self.assertEqual(
            (phone.label, phone.capacity_mah, phone.wired_w, phone.body), ("Ostrel Mini", 3350, 20, "small")
        )
        self.assertEqual([str(t) for t in phone.accepts], ["mpp=12W", "epp"])
        self.assertEqual((phone.magnets, phone.battery_health), ("built in", 0.97))

    def test_a_charger(self):
        charger = kit_from_line(LINES[1])
        self.assertEqual((charger.label, charger.form, charger.claimed_w), ("Cairn disc 15", "puck", 15.0))
        self.assertEqual((str(charger.asks[0]), charger.price, charger.fan), ("9V2.22A", Price(45.0, "EUR"), "own"))

    def test_adapters(self):
        self.assertTrue(kit_from_line(LINES[2]).inferred)
        printed = kit_from_line(LINES[3])
        self.assertFalse(printed.inferred)
        self.assertEqual((len(printed.profiles), str(printed.pps[0])), (3, "PPS 3.3-11V3A"))
        self.assertEqual(str(kit_from_line(LINES[4]).offers()[0]), "5V0.9A")

    def test_every_kind_and_the_label_keeps_its_figures(self):
        items = [kit_from_line(line) for line in LINES]
        self.assertEqual({i.kind for i in items}, set(KINDS))
        self.assertEqual(items[6].label, "Col bank 10")
        self.assertEqual((items[5].amps, items[5].length_m), (3.0, 1.5))
        self.assertEqual((items[8].sensor, items[8].accuracy_k), ("thermistor", 0.5))
        self.assertTrue(items[9].magnets)

    def test_a_quoted_label_and_a_named_field(self):
        twin = kit_from_line('charger Larch twin stand pads:"left: epp; right: bpp" form:multi-stand asks:9V3A')
        self.assertEqual((twin.label, twin.form, len(twin.pads)), ("Larch twin stand", "multi-stand", 2))
        kind, texts = typed_fields('stand "mpp 15W dock" epp form:stand no_load_w:0.4')
        self.assertEqual(
            (kind, texts["label"], texts["pads"], texts["no_load_w"]), ("charger", "mpp 15W dock", "epp", "0.4")
        )

    def test_a_form_in_a_label_stays_in_it(self):
        for line, label, form in (
            ("charger Larch twin stand mpp", "Larch twin stand", "stand"),
            ("pad Moraine pad magnet-only", "Moraine pad", "pad"),
            ("stand Moraine pad magnet-only", "Moraine pad", "stand"),
            ("charger Larch epp stand", "Larch", "stand"),
        ):
            found = kit_from_line(line)
            self.assertEqual((found.label, found.form), (label, form))

    def test_what_is_missing_is_said_by_field(self):
        with self.assertRaises(Flawed) as caught:
            kit_from_line("phone Ostrel")
        self.assertEqual({f.field for f in caught.exception.flaws}, {"capacity_mah", "accepts"})
        for line in ("", "lamp Bright"):
            self.assertRaises(CannotRead, kit_from_line, line)


class TypedFields(unittest.TestCase):
    def test_every_field_writes_what_it_reads(self):
        for line in LINES:
            item = kit_from_line(line)
            self.assertEqual(item_from(item.kind, texts_of(item)), item, line)

    def test_fields_name_facts_of_their_kind(self):
        for kind, entries in FIELDS.items():
            names = set(KINDS[kind].__dataclass_fields__) - {"kind"}
            # What a pack brings along in a charger's place is typed at the pack.
            self.assertEqual({e.name for e in entries}, names - {"source_wh"}, kind)

    def test_a_default_that_is_said_is_the_one_that_is_taken(self):
        least = {
            "phone": {"capacity_mah": "4400", "accepts": "bpp"},
            "charger": {"pads": "bpp"},
            "adapter": {"rated_w": "20"},
            "pack": {"rated_mah": "1000", "cell_v": "3.7", "gives": "bpp"},
        }
        for kind, entries in FIELDS.items():
            item = item_from(kind, {"label": "x", **least.get(kind, {})})
            for entry in entries:
                if entry.default:
                    self.assertEqual(getattr(item, entry.name), entry.parse(entry.default), f"{kind} {entry.name}")

    def test_all_that_is_wrong_is_said_at_once(self):
        found = flaws_of(
            "phone", label="=cmd", capacity_mah="many", nominal_v="-3", accepts="foo", body="huge", price="45"
        )
        self.assertEqual(found.keys(), {"label", "capacity_mah", "nominal_v", "accepts", "body", "price"})
        self.assertIn("not a number", found["capacity_mah"].what)
        self.assertTrue(all(f.mend for f in found.values()))

    def test_a_decimal_comma_and_a_unit_are_taken(self):
        phone = item_from("phone", {"label": "x", "capacity_mah": "4400 mAh", "nominal_v": "3,87", "accepts": "bpp"})
        self.assertEqual((phone.capacity_mah, phone.nominal_v), (4400.0, 3.87))

    def test_capacity_without_voltage_is_refused_for_a_pack(self):
        self.assertIn("cell_v", flaws_of("pack", label="x", rated_mah="10000", gives="mpp"))

    def test_facts_that_deny_each_other(self):
        self.assertIn("pads", flaws_of("charger", label="x", pads="a: mpp; a: bpp"))
        self.assertIn("modes", flaws_of("charger", label="x", pads="mpp", agrees="own"))
        self.assertIn("profiles", flaws_of("adapter", label="x"))
        self.assertIn(
            "gives_w", flaws_of("phone", label="x", capacity_mah="4400", accepts="bpp", gives_stop_percent="30")
        )
        self.assertIn("outputs", flaws_of("pack", label="x", rated_mah="10000", cell_v="3.7"))

    def test_pads_each_with_their_place(self):
        twin = item_from("charger", {"label": "x", "form": "multi-stand", "pads": "left: mpp, epp; watch: own:wrist=5"})
        self.assertIsInstance(twin, Charger)
        self.assertEqual([p.place for p in twin.pads], ["left", "watch"])
        self.assertEqual(twin.pad("watch").gives[0].watts, 5.0)
        self.assertRaises(KeyError, twin.pad, "right")

    def test_an_unknown_kind(self):
        self.assertRaises(CannotRead, item_from, "lamp", {})
