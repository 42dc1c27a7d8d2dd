"""Lists of runs as the database answers them: the same as from the runs themselves, and through indexes."""

import json
import random
import unittest
import uuid
from unittest import mock

from sqlalchemy import select, text

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log import Recording
from jaunecharge.core.plan.method import READY
from jaunecharge.core.versus.contender import Contender, Course
from jaunecharge.core.versus.copies import copies, without_copies
from jaunecharge.core.versus.heat_table import unlike, usual_conditions
from jaunecharge.core.versus.phone_table import phone_table
from jaunecharge.core.versus.window import span, worthwhile_windows
from jaunecharge.documents.case import Case
from jaunecharge.store import models as m
from jaunecharge.store import versus
from jaunecharge.store.listing import columns, pages, unchanged, words
from jaunecharge.store.listing.models import TABLED, Listed
from jaunecharge.store.listing.usual import Usual, usual
from jaunecharge.store.runs import changes
from jaunecharge.store.runs import copies as stored_copies
from jaunecharge.store.runs.readings import factors_of
from jaunecharge.store.runs.runs import NewRun, add_run, is_spot, known_phones, list_runs
from tests.cases import checkins, reading, steps
from tests.patience import until
from tests.serving import fresh_database

SORTS = tuple(pages.COLUMNS)


class Lines(unittest.TestCase):
    """The demonstration: every line of the narrow table says what its run says."""

    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database(with_demo=True))

    def lines(self):
        with self.database.session() as session:
            return {line.run_id: line for line in session.scalars(select(Listed))}

    def test_each_says_what_its_run_says(self):
        lines = self.lines()
        with self.database.session() as session:
            runs = list_runs(session)
            self.assertEqual(set(lines), {run.id for run in runs})
            for run in runs:
                line, summary = lines[run.id], run.summary
                heat, course = summary.throttle, summary.course
                watts = [w for w in summary.ribbon.watts if w is not None]
                readings = None if course is None else course.course().readings
                room = None if heat is None else heat.ambient_c
                self.assertEqual(
                    (line.at, line.simulated, line.spot, line.void, line.phone, line.charger, line.label),
                    (run.started_at or run.created_at, run.case.simulated, is_spot(run), run.outcome == "void",
                     run.factors.get("phone", ""), run.factors.get("charger", ""), run.label),
                )  # fmt: skip
                self.assertEqual(
                    (line.minutes, line.peak_w, line.to_80, line.hottest_c, line.reads),
                    (summary.ribbon.minutes, max(watts, default=None),
                     None if summary.to_80 is None else summary.to_80.estimate, summary.hottest_c,
                     summary.headline.replace("*", "").lower()),
                )  # fmt: skip
                self.assertEqual(
                    (line.heat, line.rise_k, line.first_min, line.throttled_min, line.lost_min, line.room_c),
                    (heat is not None, *(None if heat is None else getattr(heat, name)
                                         for name in ("rise_k", "first_min", "minutes")),
                     None if heat is None or heat.cost_min is None else heat.cost_min.value,
                     run.case.ambient_c if room is None else room),
                )  # fmt: skip
                if readings is not None and span(readings) is not None:
                    self.assertEqual((line.from_percent, line.to_percent), span(readings))
                for word in (run.label, *run.factors.values()):
                    self.assertIn(word.lower(), line.words)

    def test_phones_that_were_tested_come_from_it(self):
        with self.database.session() as session:
            known = {p.label.lower() for p in known_phones(session)}
            self.assertLessEqual(
                {r.factors["phone"].lower() for r in list_runs(session) if r.factors.get("phone")}, known
            )

    def test_every_page_of_every_order_holds_each_run_once_and_in_order(self):
        lines = self.lines()
        for kind in (None, False, True):
            fitting = {i for i, x in lines.items() if not x.spot and kind in (None, x.simulated)}
            for sort in SORTS:
                name = pages.COLUMNS[sort].key
                for down in (False, True):
                    with self.subTest(kind=kind, sort=sort, down=down):
                        found = self.walk(pages.Wanted(simulated=kind), sort, down)
                        self.assertEqual(len(found), len(set(found)))
                        self.assertEqual(set(found), fitting)
                        values = [getattr(lines[i], name) for i in found]
                        known = [v for v in values if v is not None]
                        self.assertEqual(values[: len(known)], known, "what is not known stands last")
                        if name not in pages.WORDS:
                            self.assertEqual(known, sorted(known, reverse=down))

    def walk(self, wanted, sort, down, limit=7):
        found, after = [], None
        with self.database.session() as session:
            while True:
                page = pages.page(session, wanted, sort, down, after, limit)
                found += page.runs
                self.assertLessEqual(len(page.runs), limit)
                if page.after is None:
                    return found
                after = page.after

    def test_words_all_stand_in_a_row_and_signs_mean_themselves(self):
        lines = self.lines()
        phone = next(x.phone for x in lines.values() if x.phone and not x.spot)
        for asked in (phone, f"{phone.upper()} {phone[-3:]}", "°c", "no case", "heat", "%", "_", "\\", "nowhere"):
            with self.subTest(asked):
                found = self.walk(pages.Wanted(words=asked), "when", True)
                parts = asked.lower().split()
                fitting = {i for i, x in lines.items() if not x.spot and all(p in x.words for p in parts)}
                self.assertEqual(set(found), fitting)

    def test_words_however_common_leave_the_order_as_it_is(self):
        lines, draw = self.lines(), random.Random(3)
        for n in range(60):
            kind, sort, down = draw.choice((None, False, True)), draw.choice(SORTS), draw.random() < 0.5
            texts = [x.words for x in lines.values()]
            parts = [draw.choice(draw.choice(texts).split()) for _ in range(draw.randint(1, 2))]
            asked = [p[: draw.randint(1, len(p))] if draw.random() < 0.5 else p for p in parts]
            shares = {"INDEXED": draw.choice((0.0, 0.2, 1.0)), "SELDOM": draw.choice((-1.0, 0.05, 1.0))}
            known = {**shares, "FEW": draw.choice((0, 3, 300)), "SAMPLED": draw.choice((5, 600))}
            with (
                self.subTest(n, kind=kind, sort=sort, down=down, asked=asked, known=known),
                mock.patch.multiple(words, **known),
                mock.patch.object(pages, "WALKED", draw.choice((0, 4, 3000))),
            ):
                unchanged._remembered.clear()
                order = self.walk(pages.Wanted(simulated=kind), sort, down, 1000)
                fitting = [i for i in order if all(word in lines[i].words for word in asked)]
                wanted = pages.Wanted(words=" ".join(asked), simulated=kind)
                self.assertEqual(self.walk(wanted, sort, down, draw.randint(1, 9)), fitting)
                with self.database.session() as session:
                    scale = pages.scale(session, wanted)
                longest = max((lines[i].minutes for i in fitting if lines[i].minutes is not None), default=None)
                self.assertEqual((scale.count, scale.of, scale.longest_min), (len(fitting), len(order), longest))
        unchanged._remembered.clear()

    def test_size_and_scale(self):
        lines = [x for x in self.lines().values() if not x.spot and not x.simulated]
        with self.database.session() as session:
            scale = pages.scale(session, pages.Wanted(simulated=False))
            phone = next(x.phone for x in lines if x.phone)
            filtered = pages.scale(session, pages.Wanted(words=phone, simulated=False))
        self.assertEqual((scale.count, scale.of, scale.more), (len(lines), len(lines), False))
        self.assertEqual(scale.longest_min, max(x.minutes for x in lines))
        self.assertEqual(scale.most_w, max(x.peak_w for x in lines if x.peak_w is not None))
        self.assertLess(filtered.count, filtered.of)
        self.assertEqual(filtered.of, len(lines))

    def test_a_cursor_that_is_none_is_refused(self):
        def written(*parts):
            return pages._written((parts[1], parts[2]), parts[0])

        some = uuid.uuid4()
        bad = ("x", "===", written("name", "a", some), written("when", "yesterday", some), written("when", 5, some),
               written("when", True, "no id"), written("when", "a\x00", some), "W10=")  # fmt: skip
        with self.database.session() as session:
            for after in bad:
                with self.subTest(after), self.assertRaises(CannotRead):
                    pages.page(session, pages.Wanted(), "when", True, after, 5)
            for value in (float("nan"), float("inf"), "5", [1], True):
                with self.subTest(value), self.assertRaises(CannotRead):
                    pages.page(session, pages.Wanted(), "length", True, written("length", value, some), 5)


class Kept(unittest.TestCase):
    def setUp(self):
        self.database = self.enterContext(fresh_database())

    def add(self, **more):
        with self.database.session() as session:
            run = m.Run(**{"label": "a run", "reader_version": 1, "summary_json": {}, "factors": {}, **more})
            session.add(run)
            session.flush()
            return run.id

    def line(self, run_id):
        with self.database.session() as session:
            return session.get(Listed, run_id)

    def test_spot_checks_void_and_simulated_ones_are_told_apart(self):
        kinds = [*READY, None]
        for card in kinds:
            run_id = self.add(card=card)
            with self.database.session() as session:
                self.assertEqual(self.line(run_id).spot, is_spot(session.get(m.Run, run_id)))
        self.assertEqual(sum(card is not None and card.is_spot for card in kinds), 1)
        self.assertTrue(self.line(self.add(case=Case(simulated=True))).simulated)
        self.assertFalse(self.line(self.add(case=Case())).simulated)
        self.assertTrue(self.line(self.add(outcome="void")).void)

    def test_it_goes_and_comes_with_its_run(self):
        run_id = self.add(factors={"phone": "Ostrel Max"})
        with self.database.session() as session:
            changes.delete_run(session, run_id, "Ida")
        self.assertIsNone(self.line(run_id))
        with self.database.session() as session:
            changes.bring_back_run(session, run_id)
        self.assertEqual(self.line(run_id).phone, "Ostrel Max")

    def test_what_cannot_be_read_of_a_run_spoils_neither_it_nor_the_list(self):
        for summary in (
            {"ribbon": "no ribbon", "to_80": {"estimate": "soon"}, "hottest_c": [1], "headline": {"a": 1}},
            {"ribbon": {"watts": {"a": 1}, "minutes": None}, "throttle": 5,
             "course": {"checkins": [[1], "x", [0, "y"]]}},
            {"ribbon": {"watts": ["a", None, 7.5], "minutes": 1e300}, "course": {"checkins": "none"}},
        ):  # fmt: skip
            with self.subTest(summary):
                line = self.line(self.add(summary_json=summary))
                self.assertIsNone(line.to_80)
                self.assertIsNone(line.lost_min)

    def test_json_nested_deep_in_a_run_spoils_no_list(self):
        strange = self.add(cleaned={"deep": json.loads("[" * 500 + "]" * 500)})
        plain = self.add()
        with self.database.session() as session:
            self.assertEqual({run.id for run in list_runs(session)}, {strange, plain})

    def test_copies_are_those_that_the_core_finds_among_all(self):
        chance = random.Random(3)
        marks = ["", "a", "b", "c", "d"]
        runs = []
        for n in range(60):
            recording = Recording(chance.choice(marks), chance.choice(marks), chance.choice([0.0, 3.0, 40.0]))
            factors = {"phone": chance.choice(["One", "Two"])}
            runs.append((self.add(label=f"run {n}", recording=vars(recording), factors=factors), factors, recording))
        with self.database.session() as session:
            made = {run.id: run.created_at.timestamp() for run in list_runs(session)}
            expected = copies(
                Contender(str(i), "", factors, Course(None), recording=recording, made=made[i])
                for i, factors, recording in runs
            )
            self.assertGreater(len(expected), 10)
            listed = stored_copies.copies_listed(session)
            self.assertEqual({k: v.key for k, v in listed.items()}, {k: v.key for k, v in expected.items()})
            for run_id, _, _ in runs:
                among = stored_copies.copies_among(session, [run_id])
                of = expected.get(str(run_id))
                self.assertEqual({k: v.key for k, v in among.items()}, {} if of is None else {str(run_id): of.key})


LOG = reading(steps((60, 0.5), (1800, 12.0)), checkins((1, 10), (30, 40))).log


class Remembered(unittest.TestCase):
    """Figures of the whole list are counted again once any line of it has changed, and no sooner."""

    def setUp(self):
        self.database = self.enterContext(fresh_database())
        self.add("first")
        self.asked = []

    def add(self, label):
        with self.database.session() as session:
            return add_run(session, NewRun(label, LOG, Case())).id

    def count(self):
        def work():
            self.asked.append(1)
            return session.scalar(text("SELECT count(*) FROM listing"))

        with self.database.session() as session:
            return unchanged.while_unchanged(session, "count", work)

    def settled(self):
        """The count once it is remembered: the database itself may be writing as well."""
        until(self.remembers)
        return self.count()

    def remembers(self):
        asked = len(self.asked)
        self.count()
        return len(self.asked) == asked

    def test_until_a_run_comes_changes_or_goes(self):
        self.assertEqual(self.settled(), 1)
        run_id = self.add("second")
        self.assertEqual(self.settled(), 2)
        with self.database.session() as session:
            changes.delete_run(session, run_id, "Ada")
        self.assertEqual(self.settled(), 1)
        with self.database.session() as session:
            session.execute(text("DELETE FROM listing"))
        self.assertEqual(self.settled(), 0, "a line that only goes is seen as well")

    def test_while_somebody_writes_nothing_is_remembered(self):
        with self.database.session() as writing:
            add_run(writing, NewRun("under way", LOG, Case()))
            writing.flush()
            self.assertEqual((self.count(), self.remembers(), self.remembers()), (1, False, False))
        self.assertEqual(self.settled(), 2)

    def test_a_count_that_is_not_whole_is_worked_on(self):
        with self.database.session() as session:
            for expected in (1, 2):
                found = unchanged.while_unchanged(session, "half", lambda: self.asked.append(1), lambda _: False)
                self.assertEqual((found, len(self.asked)), (None, expected))


class Compared(unittest.TestCase):
    """What Versus shows of the demonstration, from the listing as from all runs at once."""

    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database(with_demo=True))

    def setUp(self):
        self.session = self.enterContext(self.database.session())

    def test_the_table_is_that_of_the_core(self):
        whole = phone_table(versus.contenders(self.session))
        made = columns.table(self.session, versus.of_phone)
        self.assertEqual((made.usual.levels, made.usual.room_c, made.left), (whole.usual, whole.usual_room_c, 0))
        self.assertEqual(
            [(c.phone, c.window, c.timed) for c in made.columns], [(c.phone, c.window, c.timed) for c in whole.columns]
        )
        cells = {(cell.charger, c.phone): cell for c in made.columns for cell in c.cells}
        self.assertEqual(set(cells), set(whole.fields))
        for key, field in whole.fields.items():
            cell = cells[key]
            self.assertEqual((cell.median, cell.spread, cell.place), (field.median, field.spread, field.place))
            self.assertEqual([str(r.id) for r in cell.runs], [r.key for r in field.runs])
            self.assertEqual([(str(r.id), r.apart) for r in cell.others], [(r.key, why) for r, why in field.others])

    def test_only_the_phones_whose_runs_changed_are_made_anew(self):
        asked = []

        def runs_of(session, phone):
            asked.append(phone)
            return versus.of_phone(session, phone)

        columns.table(self.session, runs_of)
        asked.clear()
        columns.table(self.session, runs_of)
        self.assertEqual(asked, [])
        run = next(r for r in list_runs(self.session) if r.factors.get("phone") and r.factors.get("charger"))
        changes.change_run(self.session, run.id, run.revision, "Ida", "another label", None, None)
        made = columns.table(self.session, runs_of)
        self.assertEqual(asked, [run.factors["phone"].lower()])
        labels = [r.label for c in made.columns for cell in c.cells for r in (*cell.runs, *cell.others)]
        self.assertIn("another label", labels)
        changes.delete_run(self.session, run.id, "Ida")
        self.assertEqual(columns.table(self.session, runs_of).left, 0)
        self.assertEqual(len(asked), 2)

    def test_without_time_the_old_columns_are_shown_and_it_is_said(self):
        before = columns.table(self.session, versus.of_phone)
        self.session.execute(text("UPDATE phone_columns SET state = 'old'; SELECT nextval('listing_lines')"))
        now = columns.table(self.session, versus.of_phone, seconds=-1.0)
        self.assertEqual((now.columns, now.left), (before.columns, len(before.columns)))

    def test_phones_of_very_many_runs_are_left_to_the_workers(self):
        columns.table(self.session, versus.of_phone)
        self.session.execute(text("DELETE FROM phone_columns; SELECT nextval('listing_lines')"))
        made = columns.table(self.session, versus.of_phone, most_runs=1)
        self.assertGreater(made.left, 0)
        whole = columns.table(self.session, versus.of_phone)
        self.assertEqual(whole.left, 0)
        self.assertGreater(len(whole.columns), len(made.columns))

    def test_runs_chosen_know_what_their_phone_did_before(self):
        whole = {r.key: r for r in versus.contenders(self.session)}
        self.assertTrue(any(r.after is not None for r in whole.values()))
        for key, run in whole.items():
            [alone] = versus.named(self.session, [key])
            self.assertEqual(alone.after, run.after)
            self.assertEqual(alone.label, run.label)

    def test_neighbours_are_of_the_same_phones_and_chargers(self):
        whole = versus.contenders(self.session)
        chosen = [r for r in whole if r.levels.get("phone") and r.levels.get("charger")][:2]
        found = {r.key for r in versus.neighbours(self.session, chosen)}
        near = {
            r.key for r in whole for c in chosen if r.key == c.key
            or any(r.levels.get(f) == c.levels[f] for f in ("phone", "charger"))
        }  # fmt: skip
        self.assertEqual(found, near)

    def test_offers_are_plans_phones_and_everything(self):
        single, _ = without_copies(versus.contenders(self.session))
        runs = {r.key: r for r in single if r.outcome != "void" and not r.simulated and not r.spot}
        offers = versus.offered(self.session, 400)
        everything = next(o for o in offers if o.kind == "all")
        self.assertEqual(set(everything.runs), set(runs))
        self.assertEqual(everything.chargers, len({r.levels.get("charger", "") for r in runs.values()}))
        phones = {o.title: o for o in offers if o.kind == "phone"}
        expected = {}
        for key, run in runs.items():
            if run.levels.get("phone"):
                expected.setdefault(run.factors["phone"], []).append(key)
        self.assertEqual(
            {k: set(v) for k, v in expected.items() if len(v) > 1}, {k: set(o.runs) for k, o in phones.items()}
        )
        for offer in offers:
            windows = worthwhile_windows([span(runs[k].course.readings) for k in offer.runs])
            self.assertEqual(offer.window, windows[0][0] if windows else None)
        self.assertTrue(any(o.kind == "plan" for o in offers))
        self.assertTrue(all(len(o.runs) <= 3 for o in versus.offered(self.session, 3)))

    def test_a_phone_whose_runs_are_deleted_meanwhile_is_not_offered(self):
        counts, chargers = versus._counts(self.session, set())
        unchanged._remembered.clear()
        self.addCleanup(unchanged._remembered.clear)
        with mock.patch.object(versus, "_counts", return_value=({**counts, "gone": {"a disc": 99}}, chargers)):
            titles = {o.title for o in versus.offered(self.session, 400)}
        self.assertTrue(titles)
        self.assertNotIn("gone", titles)

    def test_the_usual_conditions_are_counted_as_the_core_counts_them(self):
        runs = [r for r in list_runs(self.session) if r.outcome != "void" and not is_spot(r)]
        rooms = [self.session.get(Listed, r.id).room_c for r in runs]
        levels, room = usual_conditions([factors_of(r) for r in runs], rooms)
        found = usual(self.session)
        self.assertEqual((found.levels, found.room_c), (levels, room))
        wanted = pages.Wanted(void=False, also=(found.condition(),))
        alike = set(pages.page(self.session, wanted, "lost", True, None, 200).runs)
        by_core = {r.id for r, c in zip(runs, rooms, strict=True) if not unlike(factors_of(r), c, levels, room)}
        self.assertEqual(alike, by_core)
        self.assertTrue(0 < len(alike) < len(runs))


class Plans(unittest.TestCase):
    """A list of thirty thousand: every question goes through an index, at any page."""

    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())
        with cls.database.session() as session:
            session.execute(
                text(
                    """
                    INSERT INTO listing SELECT gen_random_uuid(), now() - n * interval '1 minute', now(), NULL,
                        'run ' || n, 'phone ' || n % 60, 'charger ' || n % 97, 'phone ' || n % 60 || n,
                        n % 50 = 0, false,
                        false, true, md5((n % 4000)::text),
                        json_build_array('bag ' || n % 3, NULL, NULL, NULL, NULL, NULL)::text,
                        '', '', 'reads ' || n % 9, n % 300, n % 30, n % 120,
                        30 + n % 17, n % 13, n % 41, n % 31, CASE WHEN n % 3 > 0 THEN n % 37 END, 20 + n % 9, 10, 100,
                        'run ' || n || ' phone ' || n % 60 || ' charger ' || n % 97 || md5(n::text), n
                    FROM generate_series(1, 30000) AS n
                    """
                )
            )
        with cls.database.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
            connection.execute(text("VACUUM ANALYZE listing"))

    def plans(self, ask):
        """The plans of the statements that something runs."""
        from sqlalchemy import event

        asked = []
        unchanged._remembered.clear()

        def hear(connection, cursor, statement, parameters, context, many):
            if "FROM listing " in " ".join(statement.split()) and statement.lstrip().startswith("SELECT"):
                asked.append((statement, parameters))

        event.listen(self.database.engine, "before_cursor_execute", hear)
        try:
            with self.database.session() as session:
                ask(session)
        finally:
            event.remove(self.database.engine, "before_cursor_execute", hear)
        self.assertTrue(asked)
        with self.database.engine.connect() as connection:
            driver = connection.connection.driver_connection
            return [
                driver.execute(f"EXPLAIN (FORMAT JSON) {statement}", parameters).fetchone()[0]
                for statement, parameters in asked
            ]

    def assert_by_index(self, ask, sorts=False):
        for plan in self.plans(ask):
            written = json.dumps(plan)
            self.assertNotIn('"Seq Scan"', written)
            if not sorts:
                rows = [node["Plan Rows"] for node in nodes(plan[0]["Plan"]) if node["Node Type"] == "Sort"]
                self.assertTrue(all(n <= 300 for n in rows), "only a page is sorted")

    def test_any_page_of_any_order(self):
        for sort in SORTS:
            for kind in (False, None):
                for down in (False, True):
                    with self.subTest(sort=sort, kind=kind, down=down):
                        wanted, after = pages.Wanted(simulated=kind), None
                        for _ in range(3):
                            with self.database.session() as session:
                                after = pages.page(session, wanted, sort, down, after, 100).after
                            asked = wanted, sort, down, after, 100
                            self.assert_by_index(lambda session, asked=asked: pages.page(session, *asked))

    def test_a_word_of_few_rows(self):
        for word in ("run 29871", "phone 7 charger 13"):
            wanted = pages.Wanted(words=word, simulated=False)
            self.assert_by_index(lambda s, wanted=wanted: pages.page(s, wanted, "when", True, None, 60), sorts=True)

    def test_what_is_counted_over_all_lines_is_counted_in_an_index_alone(self):
        asks = (
            lambda s: pages._count(s, pages.Wanted(simulated=False)),
            lambda s: pages._count(s, pages.Wanted(void=False)),
            usual,
            lambda s: usual(s, *TABLED),
            lambda s: list(columns._states(s, Usual({}, None, ()))),
            lambda s: versus._counts(s, set()),
        )
        for n, ask in enumerate(asks):
            with self.subTest(n):
                for plan in self.plans(ask):
                    scans = {node["Node Type"] for node in nodes(plan[0]["Plan"]) if "Scan" in node["Node Type"]}
                    self.assertLessEqual(scans, {"Index Only Scan", "Subquery Scan"})

    def test_the_scale_looks_at_the_newest_alone(self):
        for kind in (False, None):
            self.assert_by_index(lambda s, kind=kind: pages.scale(s, pages.Wanted(simulated=kind)), sorts=True)

    def test_copies_and_repeats(self):
        with self.database.session() as session:
            some = list(session.scalars(select(Listed.run_id).limit(60)))
        self.assert_by_index(lambda s: stored_copies.copies_among(s, some))
        self.assert_by_index(lambda s: stored_copies.read_before(s, Recording("a", "b", 0.0)))


def nodes(plan):
    """A plan and every part of it."""
    yield plan
    for part in plan.get("Plans", ()):
        yield from nodes(part)


if __name__ == "__main__":
    unittest.main()
