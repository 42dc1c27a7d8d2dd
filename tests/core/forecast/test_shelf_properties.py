"""What must hold of any kit, chain and scenario, on many invented ones."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunecharge.core.chain.advice import advice, headline, swaps
from jaunecharge.core.chain.check import Chain, check
from jaunecharge.core.errors import CannotRead
from jaunecharge.core.forecast.coverage import not_worth_testing, with_best_adapter
from jaunecharge.core.kit.fields import FIELDS, Flawed, item_from
from jaunecharge.core.kit.items import Adapter, Cable, Charger, Pad, Phone
from jaunecharge.core.kit.one_line import kit_from_line, typed_fields
from jaunecharge.core.kit.standards import pd_profiles
from jaunecharge.core.kit.summary import in_words
from jaunecharge.core.kit.supply import PpsRange, SupplyProfile, offers, supply_profiles
from jaunecharge.core.kit.transfer import Transfer, agree, transfer
from jaunecharge.core.simulator.cell import usual_cell
from jaunecharge.core.simulator.circumstances import Circumstances, Event
from jaunecharge.core.simulator.scenario import BODIES, FORMS, prepare
from jaunecharge.core.simulator.simulate import simulate
from jaunecharge.core.versus.carry_over import carry_over
from jaunecharge.documents.kit import facts_of, kit_of
from jaunecharge.formats.kit import kit_from_text

volts = st.sampled_from([5.0, 9.0, 12.0, 15.0, 20.0])
amps = st.floats(0.5, 5.0).map(lambda a: round(a, 2))
profiles = st.lists(st.builds(SupplyProfile, volts, amps), min_size=1, max_size=5, unique_by=lambda p: p.volts)
known = st.sampled_from([Transfer("bpp", 5.0), Transfer("epp", 15.0), Transfer("mpp", 15.0), Transfer("mpp25", 25.0)])
own = st.builds(
    lambda name, watts: Transfer(f"own:{name}", watts), st.sampled_from("ab"), st.sampled_from([10.0, 20.0, 40.0])
)
takes = st.lists(st.one_of(known, own), min_size=1, max_size=3, unique_by=lambda t: t.name).map(tuple)
gives = st.lists(st.one_of(known, own, st.just(Transfer("magnet-only", 7.5))), min_size=1, max_size=3).map(tuple)
adapters = st.one_of(
    st.builds(lambda p: Adapter(label="a", profiles=tuple(p)), profiles),
    st.builds(lambda w: Adapter(label="a", rated_w=w), st.floats(5.0, 100.0)),
    st.builds(lambda p: Adapter(label="a", profiles=tuple(p), pps=(PpsRange(3.3, 11.0, 3.0),)), profiles),
)
chargers = st.builds(
    lambda g, claim, agrees, fixed: Charger(
        label="c", pads=(Pad("", g),), claimed_w=claim, agrees=agrees, captive_cable=fixed
    ),
    gives, st.sampled_from([None, 7.5, 15.0, 50.0]), st.sampled_from([("pd",), ("pps",), ("pd", "pps"), ("5v",)]),
    st.booleans(),
)  # fmt: skip
phones = st.builds(
    lambda t, mah, wired: Phone(label="p", capacity_mah=mah, accepts=t, wired_w=wired),
    takes, st.floats(1500.0, 6000.0), st.sampled_from([None, 18.0, 45.0]),
)  # fmt: skip
chains = st.builds(
    lambda a, amp, c, p, on, beside: Chain(a, Cable(label="k", amps=amp), c, p, None, "", on, beside),
    adapters, st.sampled_from([1.0, 3.0, 5.0]), st.one_of(chargers, st.none()), phones, st.integers(1, 3),
    st.integers(1, 3),
)  # fmt: skip
text = st.text(st.characters(codec="utf-8"), max_size=60)


class AnyChain(unittest.TestCase):
    @settings(max_examples=120, deadline=None)
    @given(chains)
    def test_its_figures_hang_together(self, chain):
        found = check(chain)
        self.assertTrue(0.0 <= found.delivered_w.low <= found.delivered_w.high)
        self.assertTrue(found.meter_w.low <= found.meter_w.high + 1e-9)
        for link in found.links:
            self.assertGreaterEqual(link.passes_w + 1e-9, found.meter_w.high)
            self.assertTrue(link.why and link.label)
        self.assertAlmostEqual(found.narrow_link.passes_w, found.meter_w.high, places=2)
        flows = [link.flows_w for link in found.links]
        self.assertEqual(flows, sorted(flows, reverse=True), "nothing is gained on the way")

    @settings(max_examples=80, deadline=None)
    @given(chains)
    def test_words_are_found_for_it(self, chain):
        found = check(chain)
        said = advice(chain, found)
        self.assertTrue(said and all(s.endswith(".") and s[0].isupper() for s in said))
        bold, why = headline(chain, found)
        self.assertTrue(bold.endswith(".") and why.endswith("."))
        self.assertEqual(not_worth_testing(found, chain)[:16] == "does not charge:", not found.charges)

    @settings(max_examples=120, deadline=None)
    @given(chains, adapters)
    def test_a_swap_that_is_offered_is_a_gain(self, chain, other):
        for swap in swaps(chain, [replace(other, label="other")]):
            self.assertGreaterEqual(check(swap.chain).delivered_w.high, check(chain).delivered_w.high - 1e-9)

    @settings(max_examples=120, deadline=None)
    @given(chains, st.lists(adapters, min_size=1, max_size=4))
    def test_the_best_adapter_is_not_beaten(self, chain, many):
        best = check(with_best_adapter(chain, many)).delivered_w.high
        for one in many:
            self.assertGreaterEqual(best + 1e-9, check(replace(chain, adapter=one)).delivered_w.high)

    @settings(max_examples=120, deadline=None)
    @given(gives, takes)
    def test_an_agreement_is_within_what_both_know(self, given_, taken):
        found = agree(given_, taken)
        self.assertLessEqual(found.watts, max(t.watts for t in given_))
        self.assertLessEqual(found.watts, max(t.watts for t in taken))
        self.assertGreaterEqual(found.watts, min(5.0, max(t.watts for t in given_), max(t.watts for t in taken)))

    @settings(max_examples=120, deadline=None)
    @given(st.floats(1.0, 240.0))
    def test_the_power_rules_at_any_rating(self, rated):
        found = pd_profiles(rated)
        self.assertEqual([p.volts for p in found], sorted({p.volts for p in found}))
        self.assertEqual(found[0].volts, 5.0)
        self.assertLessEqual(max(p.watts for p in found), min(rated, 100.0) + 0.11)


class AnyText(unittest.TestCase):
    """Whatever is typed is understood, or refused with a mend; nothing else comes out."""

    @settings(max_examples=120, deadline=None)
    @given(text)
    def test_supplies_and_transfers(self, typed):
        for parse in (offers, supply_profiles, lambda t: transfer(t, "charger")):
            try:
                parse(typed)
            except CannotRead as error:
                self.assertTrue(error.what and error.mend)

    @settings(max_examples=120, deadline=None)
    @given(st.sampled_from([*FIELDS, "puck", "lamp", ""]), st.lists(text, max_size=4))
    def test_a_line_of_kit(self, kind, words):
        try:
            typed_fields(f"{kind} {' '.join(words)}")
            kit_from_line(f"{kind} {' '.join(words)}")
        except CannotRead as error:
            self.assertTrue(error.mend)
        except Flawed as error:
            self.assertTrue(all(f.what and f.mend for f in error.flaws))

    @settings(max_examples=120, deadline=None)
    @given(st.sampled_from(list(FIELDS)), st.data())
    def test_a_form_of_kit(self, kind, data):
        names = [f.name for f in FIELDS[kind]]
        texts = data.draw(st.dictionaries(st.sampled_from(names), text))
        try:
            item = item_from(kind, texts)
        except Flawed as error:
            self.assertTrue({f.field for f in error.flaws} <= set(names))
        else:
            self.assertEqual(kit_of(facts_of(item)), item)
            self.assertTrue(in_words(item))

    @settings(max_examples=80, deadline=None)
    @given(st.text(max_size=300))
    def test_a_file_of_kit(self, content):
        for begin in ("", "kind,label\n", '{"kit": [', "["):
            try:
                kit_from_text(begin + content, "file")
            except CannotRead as error:
                self.assertEqual(error.file, "file")


class AnyScenario(unittest.TestCase):
    magnetic = (Transfer("mpp", 15.0),)
    scenario = prepare(
        Chain(
            None,
            None,
            Charger(label="c", form="pack", pads=(Pad("", magnetic),)),
            Phone(label="p", capacity_mah=2500.0, accepts=magnetic),
        )
    ).scenario

    @settings(max_examples=60, deadline=None)
    @given(
        st.floats(0.0, 95.0), st.floats(0.0, 40.0), st.floats(1.0, 25.0), st.floats(0.3, 1.0),
        st.lists(st.tuples(st.sampled_from(["slip", "restart", "supply"]), st.integers(60, 9000), st.integers(5, 900)),
                 max_size=4),
    )  # fmt: skip
    def test_energy_is_kept_and_nothing_runs_away(self, start, room, watts, efficiency, happenings):
        events = tuple(Event(kind, at, length, 4.0, 5.0) for kind, at, length in happenings)
        made = replace(
            self.scenario, start_percent=start, ambient_c=room, stages=((0.0, watts),), efficiency=efficiency,
            events=events, most_s=20_000.0,
        )  # fmt: skip
        found = simulate(made)
        account = found.account
        self.assertLess(abs((account.stored + account.heat + account.idle) / account.drawn - 1.0), 0.001)
        self.assertTrue(np.all((found.charge > -0.01) & (found.charge <= 1.0001)))
        self.assertTrue(np.all(found.phone_c >= room - 0.01) and found.hottest_c < 60.0)
        self.assertTrue(np.all(found.power_w >= made.no_load_w - 1e-9))
        self.assertTrue(np.all(found.delivered_w <= watts + 1e-9))

    @settings(max_examples=40, deadline=None)
    @given(st.floats(500.0, 20_000.0), st.floats(2.5, 8.0), st.floats(0.5, 1.0))
    def test_a_cell_holds_its_rated_energy(self, mah, nominal_v, health):
        cell = usual_cell(mah, nominal_v, health)
        self.assertAlmostEqual(cell.energy_wh, mah * nominal_v / 1000.0 * health, places=6)
        self.assertTrue(np.all(np.diff(cell.ocv_v) > 0))
        self.assertGreater(cell.most_v, cell.ocv_v[-1])

    def test_every_body_and_form_can_be_rehearsed(self):
        for body in BODIES:
            for form in FORMS:
                phone = Phone(label="p", capacity_mah=4000.0, accepts=(Transfer("mpp", 15.0),), body=body)
                charger = Charger(label="c", form=form, pads=(Pad("", (Transfer("mpp", 15.0),)),), fan="own")
                chain = Chain(Adapter(label="a", rated_w=20.0), Cable(label="k"), charger, phone)
                for air in ("still air", "fan on the phone", "charger's own fan"):
                    found = simulate(prepare(chain, Circumstances(airflow=air)).scenario)
                    self.assertIsNotNone(found.minutes_to(80), (body, form, air))

    @settings(max_examples=80, deadline=None)
    @given(st.lists(st.floats(0.1, 30.0), min_size=1, max_size=12), st.floats(500, 9000), st.floats(500, 9000))
    def test_carrying_over_and_back_changes_nothing(self, steps, one, other):
        minutes, percent = np.cumsum(steps), np.linspace(5.0, 100.0, len(steps))
        there = carry_over(minutes, percent, one, other)
        back = carry_over(there.minutes, there.percent, other, one)
        np.testing.assert_allclose(back.minutes, minutes)
        self.assertTrue(np.all((there.low_min < there.minutes) & (there.minutes < there.high_min)))
