"""Plans in the store: kept, learned from, carried over a backup and a migration."""

import datetime as dt
import tempfile
import unittest
import uuid
from dataclasses import replace
from pathlib import Path

import numpy as np
from sqlalchemy import select, text

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.fields import Flawed
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.plan.method import Card, ready
from jaunecharge.core.reading.read_run import RunLog
from jaunecharge.documents.case import Case
from jaunecharge.documents.choice import Hours, PickedCharger, PlanChoice, PlanWishes
from jaunecharge.store import models as m
from jaunecharge.store.backup import backup, restore
from jaunecharge.store.errors import ChangedMeanwhile, NotThere
from jaunecharge.store.kit import add_all, change_piece, item_of
from jaunecharge.store.plan.cards import add_card, card_named, change_card, own_cards, retire_card
from jaunecharge.store.plan.plans import add_plan, change_plan, delete_plan, get_plan, list_plans, problem_of, slots_of
from jaunecharge.store.plan.slots import fill_slot, slot_of_run, tell, undo
from jaunecharge.store.plan.stopping import answered, let_rest_go, take_up_again
from jaunecharge.store.plan.work import NewPlan, choice_of, seen
from jaunecharge.store.runs.runs import NewRun, add_run
from tests.cases import checkins, steps
from tests.serving import fresh_database

LINES = (
    "phone Ostrel Mini 3350mAh mpp@12 small magnets", "phone Ostrel Max 4700mAh mpp large magnets",
    "puck Cairn disc mpp claims 15W", "pad Moraine pad magnet-only claims 15W", "adapter Plug 20 20W",
    "cable Braided 3A", 'charger Larch pads:"left: epp=10W; right: bpp" form:multi-stand asks:9V3A',
)  # fmt: skip
NOW = dt.datetime(2027, 3, 1, 9, tzinfo=dt.UTC)
EIGHTY = ready("to eighty, three repeats")


class PlanTest(unittest.TestCase):
    def setUp(self):
        self.database = self.enterContext(fresh_database())
        with self.database.session() as session:
            self.ids = {p.label: p.id for p in add_all(session, [kit_from_line(x) for x in LINES], "")[0]}

    def new(self, phones=("Ostrel Max",), chargers=("Cairn disc", "Moraine pad"), card=EIGHTY, meters=2, **choice):
        picked = PlanChoice(
            **{
                "phones": [self.ids[p] for p in phones],
                "chargers": [PickedCharger(id=self.ids[c]) for c in chargers],
                "adapter": self.ids["Plug 20"],
                "close": False,
                **choice,
            }
        )
        wishes = PlanWishes(start=dt.datetime(2027, 3, 1, 8), zone="UTC", attended=[Hours()], meters=meters)
        return NewPlan("Which?", card, picked, wishes, "Anna")

    def add(self, **more):
        with self.database.session() as session:
            return add_plan(session, self.new(**more)).id

    def slots(self, plan_id):
        with self.database.session() as session:
            found = slots_of(session, plan_id)
            session.expunge_all()
        return sorted(found, key=lambda s: s.start_at)

    def say(self, slot, what, hour, reason="", again=False):
        at = NOW.replace(hour=0) + dt.timedelta(hours=hour)
        with self.database.session() as session:
            tell(session, slot.id, what, at, at, "Anna", reason, again)

    def run_of(self, slot, started=None):
        log = RunLog(steps((60, 0.5), (3600, 12.0)), checkins((1, 10), (30, 50), (60, 85)))
        new = NewRun("a run", log, Case(), factors=slot.factors, started_at=started)
        with self.database.session() as session:
            return add_run(session, new).id


class Kept(PlanTest):
    def test_the_order_of_a_phone_is_the_order_of_its_slots(self):
        plan_id = self.add(repeats=3, seed=5)
        slots = self.slots(plan_id)
        self.assertEqual([s.position for s in slots], list(range(6)))
        with self.database.session() as session:
            problem = problem_of(session, get_plan(session, plan_id), slots_of(session, plan_id))
        self.assertEqual(problem.sequences, (tuple(str(s.id) for s in slots),))

    def test_equal_plugs_and_one_plug(self):
        new = self.new(phones=("Ostrel Max", "Ostrel Mini"))
        over = []
        for plugs in (1, 2):
            new = replace(new, wishes=new.wishes.model_copy(update={"plugs": plugs}))
            with self.database.session() as session:
                over.append(add_plan(session, new).schedule["over_at"])
        self.assertLess(over[1], over[0])

    def test_places_of_a_charger_are_rows_of_their_own(self):
        with self.database.session() as session:
            new = self.new(chargers=())
            places = [PickedCharger(id=self.ids["Larch"], place=p) for p in ("left", "right")]
            new = replace(new, choice=new.choice.model_copy(update={"chargers": places}))
            self.assertEqual([r.label for r in choice_of(session, new.choice).rows], ["Larch, left", "Larch, right"])
            places = [PickedCharger(id=self.ids["Larch"], place="middle")]
            new = replace(new, choice=new.choice.model_copy(update={"chargers": places}))
            with self.assertRaisesRegex(CannotRead, "has no place"):
                choice_of(session, new.choice)

    def test_kit_of_the_wrong_kind_or_none_is_refused(self):
        with self.database.session() as session:
            for changes, said in (
                ({"phones": [self.ids["Plug 20"]]}, "is an adapter"),
                ({"chargers": [PickedCharger(id=self.ids["Braided"])]}, "gives nothing by coil"),
                ({"cable": self.ids["Cairn disc"]}, "is a charger"),
            ):
                choice = self.new().choice.model_copy(update=changes)
                with self.assertRaisesRegex(CannotRead, said):
                    choice_of(session, choice)
            with self.assertRaises(NotThere):
                choice_of(session, self.new().choice.model_copy(update={"phones": [uuid.uuid4()]}))

    def test_two_windows_changing_one_plan(self):
        plan_id = self.add()
        with self.database.session() as session:
            change_plan(session, plan_id, 1, self.new(repeats=2), NOW)
        with self.database.session() as session, self.assertRaises(ChangedMeanwhile):
            change_plan(session, plan_id, 1, self.new(repeats=3), NOW)

    def test_kit_that_changes_later_does_not_change_what_was_expected(self):
        plan_id = self.add()
        before = [s.expected.minutes for s in self.slots(plan_id)]
        with self.database.session() as session:
            piece = session.get(m.Kit, self.ids["Ostrel Max"])
            bigger = kit_from_line(LINES[1].replace("4700", "6000"))
            change_piece(session, piece.id, piece.revision, bigger)
            self.assertEqual(item_of(piece).capacity_mah, 6000)
        self.assertEqual([s.expected.minutes for s in self.slots(plan_id)], before)

    def test_laid_aside_plans_are_listed_apart(self):
        plan_id = self.add()
        with self.database.session() as session:
            delete_plan(session, plan_id, "Anna")
        with self.database.session() as session:
            self.assertEqual((len(list_plans(session)), len(list_plans(session, deleted=True))), (0, 1))


class Learned(PlanTest):
    def test_a_plan_of_the_same_method_begins_with_what_was_seen(self):
        first = self.add()
        slot = self.slots(first)[0]
        forecast = slot.drain_min
        self.say(slot, "drain", 8)
        self.say(slot, "drained", 13)
        with self.database.session() as session:
            _, drains, _ = seen(session, EIGHTY)
            self.assertEqual(drains, {"Ostrel Max": [300.0]})
            self.assertEqual(seen(session, ready("from dead"))[1], {}, "another method drains to another level")
        again = self.slots(self.add())[0]
        self.assertEqual(again.drain_min, -(-((forecast + 300.0) / 2) // 5) * 5)

    def test_chargers_that_were_run_are_known(self):
        slot = self.slots(self.add())[0]
        with self.database.session() as session:
            self.assertEqual(seen(session, EIGHTY)[0], frozenset())
        self.run_of(slot)
        with self.database.session() as session:
            self.assertEqual(seen(session, EIGHTY)[0], {slot.factors["charger"]})


class Filled(PlanTest):
    def fill(self, run_id, slot_id=None, now=NOW):
        with self.database.session() as session:
            run = session.get(m.Run, run_id)
            return fill_slot(session, run, now, slot_id)

    def test_a_planned_slot_takes_the_run_that_began_then(self):
        plan_id = self.add()
        slot = self.slots(plan_id)[0]
        run = self.run_of(slot, slot.start_at + dt.timedelta(minutes=20))
        self.assertEqual(self.fill(run, now=slot.start_at + dt.timedelta(hours=3)).id, slot.id)
        kept = next(s for s in self.slots(plan_id) if s.id == slot.id)
        self.assertEqual(
            (kept.state, kept.run_id, kept.began_at), ("done", run, slot.start_at + dt.timedelta(minutes=20))
        )
        with self.database.session() as session:
            self.assertEqual(slot_of_run(session, run).id, slot.id)
            self.assertEqual(session.get(m.Run, run).card.name, EIGHTY.name)

    def test_a_filled_or_void_slot_takes_no_other(self):
        plan_id = self.add()
        slot = self.slots(plan_id)[0]
        self.fill(self.run_of(slot), slot.id)
        with self.assertRaisesRegex(CannotRead, "filled, or void"):
            self.fill(self.run_of(slot), slot.id)
        other = next(s for s in self.slots(plan_id) if s.state == "planned")
        self.say(other, "void", 9, "moved")
        with self.assertRaisesRegex(CannotRead, "filled, or void"):
            self.fill(self.run_of(other), other.id)

    def test_undoing_a_filled_slot_frees_it(self):
        plan_id = self.add()
        slot = self.slots(plan_id)[0]
        self.fill(self.run_of(slot), slot.id)
        with self.database.session() as session:
            undo(session, slot.id, NOW)
        kept = next(s for s in self.slots(plan_id) if s.id == slot.id)
        self.assertEqual((kept.state, kept.run_id, kept.card), ("planned", None, None))

    def test_a_run_that_no_plan_asked_for_stays_by_itself(self):
        self.add()
        slot = self.slots(self.add())[0]
        run = self.run_of(slot, NOW - dt.timedelta(days=90))
        self.assertIsNone(self.fill(run))


class LetGo(PlanTest):
    """A plan of a fast disc and a slow pad, three runs each, as somebody makes them."""

    def made(self, minutes, runs, **wishes):
        new = self.new(repeats=3)
        new = replace(new, wishes=new.wishes.model_copy(update=wishes))
        with self.database.session() as session:
            plan_id = add_plan(session, new).id
        for slot in self.slots(plan_id)[:runs]:
            pace = next(m for name, m in minutes.items() if name in slot.said)
            log = RunLog(steps((60, 0.5), (3600 * 6, 12.0)), checkins((1, 10), (1 + pace, 80), (pace + 40, 85)))
            with self.database.session() as session:
                run = add_run(session, NewRun("a run", log, Case(), factors=slot.factors, started_at=slot.start_at))
                fill_slot(session, run, slot.start_at + dt.timedelta(hours=5), slot.id)
        return plan_id

    def state(self, plan_id):
        with self.database.session() as session:
            return answered(session, get_plan(session, plan_id))

    def states(self, plan_id):
        return sorted(s.state for s in self.slots(plan_id))

    def test_a_wide_difference_is_told_and_the_rest_can_go_and_come_back(self):
        plan_id = self.made({"Cairn": 60, "Moraine": 180}, 4)
        found = self.state(plan_id)
        self.assertTrue(found.state.answered, found.said)
        self.assertIn("Cairn disc", found.said)
        self.assertGreater(found.minutes_left, 60)
        with self.database.session() as session:
            self.assertEqual(let_rest_go(session, plan_id, NOW, "Anna"), 2)
        self.assertEqual(self.states(plan_id), ["done"] * 4 + ["let go"] * 2)
        self.assertEqual(self.state(plan_id).minutes_left, 0)
        self.assertNotIn("let go", self.state(plan_id).said)
        with self.database.session() as session:
            self.assertEqual(take_up_again(session, plan_id, NOW, "Anna"), 2)
        self.assertEqual(self.states(plan_id), ["done"] * 4 + ["planned"] * 2)

    def test_it_stops_by_itself_only_where_that_was_asked(self):
        for asked, left in ((True, "let go"), (False, "planned")):
            plan_id = self.made({"Cairn": 60, "Moraine": 180}, 5, stop_when_answered=asked)
            self.assertIn(left, self.states(plan_id))
        with self.database.session() as session:
            self.assertIn("answered", str(get_plan(session, plan_id).changes) + self.state(plan_id).said.lower())

    def test_alike_chargers_are_not_called_answered_early(self):
        plan_id = self.made({"Cairn": 100, "Moraine": 101}, 2)
        self.assertFalse(self.state(plan_id).state.answered)

    def test_void_runs_do_not_count_and_let_go_ones_take_no_run(self):
        plan_id = self.made({"Cairn": 60, "Moraine": 180}, 4)
        with self.database.session() as session:
            let_rest_go(session, plan_id, NOW, "Anna")
        gone = next(s for s in self.slots(plan_id) if s.state == "let go")
        run = self.run_of(gone, gone.start_at)
        with self.database.session() as session:
            self.assertIsNone(fill_slot(session, session.get(m.Run, run), NOW))


class Cards(PlanTest):
    def test_names_are_unique_also_against_the_ready_ones(self):
        with self.database.session() as session:
            add_card(session, Card(name="Mine"), "")
            for name in ("mine", "Spot check", " MINE "):
                with self.assertRaises(Flawed):
                    add_card(session, Card(name=name), "")

    def test_a_card_by_its_name(self):
        with self.database.session() as session:
            kept = add_card(session, Card(name="Mine", interval_min=5.0), "")
            self.assertEqual(card_named(session, "MINE").interval_min, 5.0)
            self.assertEqual(card_named(session, "from dead").start, "from dead")
            self.assertIsNone(card_named(session, "nothing"))
            change_card(session, kept.id, 1, Card(name="Mine", interval_min=15.0))
            with self.assertRaises(ChangedMeanwhile):
                change_card(session, kept.id, 1, Card(name="Mine"))
            retire_card(session, kept.id, "Anna")
            self.assertEqual((own_cards(session), len(own_cards(session, retired=True))), ([], 1))


class Carried(PlanTest):
    def test_a_plan_survives_a_backup(self):
        plan_id = self.add()
        before = [(s.id, s.start_at, s.factors) for s in self.slots(plan_id)]
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "all.backup"
            backup(self.database, file)
            with self.database.session() as session:
                session.execute(text("DELETE FROM plans"))
            restore(self.database, file)
        self.assertEqual([(s.id, s.start_at, s.factors) for s in self.slots(plan_id)], before)

    def test_runs_from_before_plans_keep_their_data_and_have_no_card(self):
        with fresh_database("0003") as old:
            with old.engine.begin() as connection:
                connection.execute(
                    text(
                        "INSERT INTO runs (id, label, factors, conditions, origin, zone, cleaned, remarks, samples, "
                        "summary, reader_version, revision, created_by) VALUES (gen_random_uuid(), 'old', "
                        "'{\"phone\": \"Tarn\"}', '{}', 'imported', 'UTC', '{}', '[]', 0, '{}', 1, 1, '')"
                    )
                )
            old.migrate()
            with old.session() as session:
                [run] = session.scalars(select(m.Run))
                self.assertEqual((run.label, run.factors, run.card), ("old", {"phone": "Tarn"}, None))
                self.assertEqual(list_plans(session), [])


class Ribbons(PlanTest):
    def test_what_is_expected_is_kept_as_a_ribbon(self):
        slot = self.slots(self.add())[0]
        band = slot.expected.ribbon
        self.assertEqual(len(band.watts), len(band.celsius))
        self.assertAlmostEqual(band.step_min * len(band.watts), slot.expected.minutes)
        self.assertTrue(np.all(np.array(band.watts) >= 0))
        self.assertTrue(all(0 < t.minute <= slot.expected.minutes for t in band.ticks))
