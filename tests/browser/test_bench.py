"""The bench as a person uses it: by keyboard alone, from the hand, in two windows, and cut off for a while."""

import re
import time
import uuid
from unittest import mock

from playwright.sync_api import expect

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store.kit import add_all
from tests.browser.base import PATIENCE_MS, Audit, BrowserTest

LINES = (
    "phone Ostrel Max 4620mAh mpp wired 25W large magnets", "puck Cairn disc mpp claims 15W asks 9V2.22A",
    "pad Moraine pad magnet-only claims 15W", "adapter Plug 20 20W", "meter Inline A 0.5%",
    "pack Col bank 10000mAh 3.7V 5V3A 9V2.22A",
)  # fmt: skip
FACTORS = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}


class BenchTest(BrowserTest):
    def setUp(self):
        super().setUp()
        for lane in self.web.get("/api/bench").json()["lanes"]:
            end = {"outcome": "void", "reason": "tidied up"}
            self.web.post(f"/api/lanes/{lane['view']['id']}/ended", json=end)
        with self.database.session() as session:
            for table in ("lanes", "lane_readings", "meter_checks", "runs", "kit", "pack_tests"):
                session.connection().exec_driver_sql(f"DELETE FROM {table}")
            add_all(session, [kit_from_line(line) for line in LINES], "")

    def open(self, **more):
        made = self.web.post("/api/lanes", json={"factors": FACTORS, "ambient_c": 25.0, **more})
        self.assertEqual(made.status_code, 201, made.text)
        return made.json()["view"]

    def opened_lane(self, ready=lambda view: True):
        """The lane on the bench that is ready; a page may know of it before the bench has taken it in."""
        for _ in range(1200):
            for lane in self.web.get("/api/bench").json()["lanes"]:
                if ready(lane["view"]):
                    return lane["view"]
            time.sleep(0.05)
        self.fail("no lane was ready within a minute")

    def token(self, lane):
        return self.web.get(f"/api/lanes/{lane['id']}/link").json()["token"]

    def lane(self, page, name="A"):
        return page.get_by_label(re.compile(f"^lane {name}, "))

    def type(self, page, line, *said, ends=False, away=False):
        """A line on the entry line; its echo is waited for, then Enter. One that ends a lane leads to its run."""
        expect(page.get_by_label("entry line")).to_be_visible()
        page.keyboard.press("/")
        expect(page.get_by_label("entry line")).to_be_focused()
        page.keyboard.type(line)
        for words in said:
            expect(page.locator("#echo")).to_contain_text(words)
        page.keyboard.press("Enter")
        if not ends:
            expect(page.get_by_label("entry line")).to_have_value("")
            if not away:
                expect(page.get_by_role("list", name="lines on their way")).to_have_count(0)
            page.keyboard.press("Escape")


class WithoutAMeter(BenchTest):
    def test_a_run_of_percentages_and_temperatures_shows_what_there_is(self):
        lane = self.open()
        for line in (
            "placed @-60",
            "10 @+0",
            "25c room @+0",
            "26c @+0",
            "30 @+20",
            "38.2c @+20",
            "52 @+40",
            "41.5c @+40",
            "70 @+59",
        ):
            body = {"line": f"a {line}", "id": str(uuid.uuid4()), "sure": True}
            self.assertTrue(self.web.post("/api/bench/lines", json=body).json()["logged"], line)
        ended = self.web.post(f"/api/lanes/{lane['id']}/ended", json={"outcome": "complete"})
        self.assertEqual(ended.status_code, 200, ended.text)
        page = self.goto("/runs")
        row = page.get_by_role("listitem").filter(has_text="Ostrel Max")
        expect(row).to_contain_text("points/min")
        row.get_by_role("link").click()
        expect(page.get_by_role("img", name="battery over time").locator("canvas")).to_be_visible()
        expect(page.get_by_role("img", name=re.compile("temperature.* over time")).locator("canvas")).to_be_visible()
        expect(page.get_by_role("img", name="power over time")).to_have_count(0)
        expect(page.get_by_label("what this run says")).to_contain_text("41.5")
        self.goto("/runs/heat")
        expect(page.get_by_role("row").filter(has_text="Ostrel Max")).to_contain_text("41.5")


class Packs(BenchTest):
    def test_a_charge_with_lamps_from_set_up_to_its_test(self):
        page = self.goto("/bench/new")
        page.get_by_label("phone", exact=True).select_option("Ostrel Max")
        page.get_by_label("charger", exact=True).select_option("none: by wire")
        page.get_by_label("adapter or pack", exact=True).select_option("Col bank")
        page.get_by_role("button", name="Open the lane").click()
        lane = self.lane(page)
        expect(lane).to_contain_text("Note the pack's level: type a pack 100")
        self.type(page, "a lamps 4", "4 lamps of the pack")
        self.type(page, "a 5 @-200")
        self.type(page, "a placed @-190")
        self.type(page, "a lamps 4 @-191")
        self.type(page, "a 60 @+90")
        self.type(page, "a 100 @+180")
        self.type(page, "a lamps 2", "2 lamps of the pack")
        expect(lane).to_contain_text("pack 2 lamps")
        self.type(page, "a end", ends=True)
        expect(page.get_by_text("The lane has ended")).to_be_visible()
        page.keyboard.press("6")
        expect(page.get_by_role("table", name="packs")).to_contain_text("by cord, measured")
        expect(
            page.get_by_role("button", name=re.compile("^Ostrel Max by cord: 5.* from 4 of 4 lamps to 2"))
        ).to_be_visible()

    def test_a_pack_under_load_by_keyboard(self):
        page = self.goto("/bench/new")
        page.get_by_label("a pack under load").check()
        page.get_by_label("pack", exact=True).select_option("Col bank")
        expect(page.get_by_text("Fill it, and let it rest for an hour")).to_be_visible()
        page.get_by_role("button", name="Open the lane").click()
        lane = self.lane(page)
        expect(lane).to_contain_text("Pack full: type a pack 100")
        self.type(page, "a 100 @-61", "pack 100 %")
        self.type(page, "a 5.12v 0a @-61")
        self.type(page, "a placed @-60")
        self.type(page, "a 5.02v 2a @+1")
        self.type(page, "a 5v 2a @+55")
        self.type(page, "a 80 @+20")
        expect(lane).to_contain_text("80 %")
        page.keyboard.press("/")
        page.keyboard.type("a 95")
        page.keyboard.press("Enter")
        expect(page.get_by_text("A pack that gives does not rise")).to_be_visible()
        page.get_by_role("button", name="Drop", exact=True).click()
        self.type(page, "a end", ends=True)
        expect(page.get_by_text("Its test stands among the packs")).to_be_visible()
        expect(page.get_by_text(re.compile("Delivered at least 9"))).to_have_count(2)


class OnAPhone(BenchTest):
    def test_the_bench_fits_a_phone(self):
        self.open()
        self.page.set_viewport_size({"width": 390, "height": 844})
        page = self.goto("/bench")
        lane = self.lane(page)
        expect(lane).to_be_visible()
        for part in (lane, page.get_by_role("link", name="Set up a lane"), page.get_by_label("entry line")):
            box = part.bounding_box()
            self.assertGreaterEqual(box["x"], 0)
            self.assertLessEqual(box["x"] + box["width"], 390)
        self.assertGreater(lane.bounding_box()["width"], 350)
        self.assertFalse(page.evaluate("document.querySelector('main').scrollWidth > innerWidth"))


class ByKeyboard(BenchTest):
    def tab_to(self, page, there):
        """From field to field by the keyboard until something is reached."""
        for _ in range(40):
            if page.evaluate(there):
                return
            page.keyboard.press("Tab")
        self.fail(f"never reached: {there}")

    def test_a_whole_run_from_setting_the_bench_to_the_closed_run(self):
        page = self.goto("/runs")
        expect(page.get_by_role("heading", name="Runs")).to_be_visible()
        page.keyboard.press("3")
        expect(page.get_by_text("Set up a lane for the first phone.")).to_be_visible()
        page.keyboard.press("s")
        expect(page.get_by_label("phone", exact=True)).to_be_focused()
        for text in ("Ostrel Max", "Cairn disc", "Plug 20"):
            page.keyboard.type(text)
            page.keyboard.press("Tab")
        self.tab_to(page, "document.activeElement.getAttribute('aria-label')?.startsWith('or practise')")
        page.keyboard.type("120")
        self.tab_to(page, "document.activeElement.textContent === 'Open the lane'")
        page.keyboard.press("Enter")
        lane = self.lane(page)
        expect(lane).to_be_visible()
        steps = page.get_by_label("setting lane A")
        expect(steps.get_by_label("seen by the instruments")).to_have_count(4)
        self.type(page, "a 10", "battery 10 %", "Enter logs it")
        self.type(page, "25c room", "room 25.0 °C")
        expect(steps.get_by_label("seen by the instruments")).to_have_count(6)
        for done in (1, 2):
            page.keyboard.press("d")
            expect(steps.get_by_label("done", exact=True)).to_have_count(done)
        expect(page.get_by_role("button", name="Have the stand-in place the phone")).to_be_visible()
        page.keyboard.press("d")
        expect(lane).to_contain_text(re.compile("ramp|plateau"))
        expect(lane.locator("svg[role=img]")).to_be_visible()
        expect(page.get_by_role("banner")).to_contain_text("1 lane running")
        self.type(page, "note by keyboard alone", "note: by keyboard alone")
        expect(lane).to_contain_text(re.compile("100 % in about [0-9]"))
        self.type(page, "end early seen enough", "end the lane, stopped early: seen enough", ends=True)
        expect(page).to_have_url(re.compile("/runs/[0-9a-f-]{36}$"))
        expect(page.get_by_role("main")).to_contain_text("by keyboard alone")
        expect(page.get_by_label("what this run says")).to_be_visible()

    def test_what_is_odd_is_asked_before_it_is_logged(self):
        lane = self.open()
        page = self.goto("/bench")
        expect(self.lane(page)).to_be_visible()
        self.type(page, "52", "battery 52 %")
        page.get_by_label("entry line").focus()
        page.keyboard.type("47")
        expect(page.locator("#echo")).to_contain_text("47 after 52?")
        page.keyboard.press("Enter")
        asked = page.get_by_role("list", name="lines that are asked about")
        expect(asked).to_contain_text("47 after 52?")
        page.keyboard.press("Enter")
        expect(asked).to_have_count(0)
        expect(self.lane(page)).to_contain_text("47 %")
        page.keyboard.type("fish")
        expect(page.locator("#echo")).to_contain_text("“fish” is not understood")
        page.keyboard.press("Escape")
        self.assertEqual(len(self.web.get(f"/api/lanes/{lane['id']}/log").json()), 2)

    LINES = ("10", "24c room", "33c", "note set down", "9.02v 1.97a", "light on")
    LOGGED = (
        "battery 10 %", "room 24.0 °C", "back 33.0 °C", "note: set down", "9.02 V", "1.97 A", "charger's light on",
    )  # fmt: skip

    def type_all(self, page):
        """Six lines one after the other, at 30 ms a key, without looking up."""
        page.get_by_label("entry line").focus()
        for line in self.LINES:
            page.keyboard.type(line, delay=30)
            page.keyboard.press("Enter")
        expect(page.get_by_label("entry line")).to_have_value("")

    def logged(self, lane):
        return [e["said"] for e in self.web.get(f"/api/lanes/{lane['id']}/log").json()]

    def test_lines_typed_one_after_the_other_are_all_logged_in_order(self):
        lane = self.open()
        page = self.goto("/bench")
        expect(self.lane(page)).to_be_visible()
        self.type_all(page)
        expect(page.get_by_role("list", name="lines on their way")).to_have_count(0)
        self.assertEqual(self.logged(lane), [*self.LOGGED])

    def test_typing_does_not_wait_for_a_slow_bench(self):
        lane = self.open()
        self.answers_late("/api/bench/", ms=2000)
        page = self.goto("/bench")
        expect(self.lane(page)).to_be_visible()
        self.type_all(page)
        waiting = page.get_by_role("list", name="lines on their way")
        expect(waiting.get_by_text("light on …")).to_be_visible()
        # What is asked about one does not hold up those behind it, nor what is typed meanwhile.
        page.keyboard.type("102c", delay=30)
        page.keyboard.press("Enter")
        page.keyboard.type("note and on", delay=30)
        page.keyboard.press("Enter")
        asked = page.get_by_role("list", name="lines that are asked about")
        asked.get_by_role("button", name="°F", exact=True).click()
        expect(waiting).to_have_count(0)
        expect(asked).to_have_count(0)
        self.assertEqual(self.logged(lane), [*self.LOGGED, "back 38.9 °C (typed 102 °F)", "note: and on"])

    def test_lines_typed_while_the_bench_is_away_outlast_the_window(self):
        lane = self.open()
        page = self.goto("/bench")
        expect(self.lane(page)).to_be_visible()
        self.let_pass = "ERR_FAILED"
        page.route("**/api/bench/lines", lambda route: route.abort())
        self.type_all(page)
        expect(page.get_by_text("6 wait to be sent")).to_be_visible()
        self.assertEqual(self.logged(lane), [])
        page.unroute("**/api/bench/lines")
        page.reload()
        expect(page.get_by_role("list", name="lines on their way")).to_have_count(0)
        expect(self.lane(page)).to_contain_text("10 %")
        self.assertEqual(self.logged(lane), [*self.LOGGED])

    def test_what_is_still_asked_about_is_taken_back_by_undo_and_nothing_else(self):
        lane = self.open()
        page = self.goto("/bench")
        self.type(page, "52", "battery 52 %")
        page.get_by_label("entry line").focus()
        for line in ("47", "u"):
            page.keyboard.type(line, delay=30)
            page.keyboard.press("Enter")
        expect(page.get_by_role("list", name="lines that are asked about")).to_have_count(0)
        expect(page.get_by_role("list", name="lines on their way")).to_have_count(0)
        self.assertEqual(self.logged(lane), ["battery 52 %"])

    def test_a_phone_that_lies_there_already_is_seen_and_both_ways_are_offered(self):
        lane = self.open()
        page = self.goto("/bench")
        expect(self.lane(page)).to_be_visible()
        headers = {"Authorization": f"Bearer {self.token(lane)}"}
        rows = [{"n": n, "clock_s": n, "watts": 17.0} for n in range(60)]
        self.web.post(f"/api/lanes/{lane['id']}/readings", json={"source": "m", "readings": rows}, headers=headers)
        expect(self.lane(page)).to_contain_text("A phone is on it already: 17.0 W. Take it off")
        steps = page.get_by_label("setting lane A")
        expect(steps.get_by_role("listitem").filter(has_text="Charger in, nothing on it")).to_contain_text(
            "on it already"
        )
        expect(steps.get_by_role("listitem").filter(has_text="no-load watts").get_by_label("to do")).to_be_visible()
        page.get_by_role("button", name="Continue without the no-load").click()
        expect(self.lane(page)).to_contain_text(re.compile("ramp|plateau"))
        expect(self.lane(page).get_by_text("no power")).to_have_count(0)

    def test_volts_are_noted_by_their_figure(self):
        self.open()
        page = self.goto("/bench")
        steps = page.get_by_label("setting lane A")
        steps.get_by_role("button", name="Adapter in: done").or_(
            page.get_by_role("button", name="Done: Adapter in")
        ).first.click()
        page.get_by_role("button", name="Done: Charger in, nothing on it").click()
        page.get_by_label("volts, V").fill("9.02")
        page.keyboard.press("Enter")
        expect(steps.get_by_role("listitem").filter(has_text="Note the volts")).to_contain_text("9.02 V")
        page.get_by_label("no-load watts, W").fill("0.4")
        page.keyboard.press("Enter")
        expect(steps.get_by_role("listitem").filter(has_text="Note the no-load watts")).to_contain_text("0.40 W")

    def test_a_placing_is_moved_and_taken_back(self):
        self.open()
        page = self.goto("/bench")
        self.type(page, "10", "battery 10 %")
        self.type(page, "placed", "phone placed: t = 0")
        page.get_by_role("button", name="Placed …").click()
        form = page.get_by_role("form", name="placing of lane A")
        expect(form.get_by_role("button", name="Move it")).to_be_disabled()
        form.get_by_role("button", name="It was not placed").click()
        expect(page.get_by_label("setting lane A")).to_be_visible()
        self.type(page, "placed @-30", "phone placed: t = 0")
        expect(self.lane(page)).to_contain_text("in about")

    def test_a_correction_keeps_the_first_value_and_undo_takes_back(self):
        self.open()
        page = self.goto("/bench")
        self.type(page, "47", "battery 47 %")
        page.get_by_role("button", name="Log", exact=True).click()
        log = page.get_by_role("table", name="log of lane A")
        log.get_by_role("button", name="correct battery 47 %").click()
        page.get_by_label("right value of battery 47 %").fill("46")
        page.keyboard.press("Enter")
        expect(log).to_contain_text("battery 46 % (first: battery 47 %)")
        page.get_by_role("button", name="Log", exact=True).focus()
        self.type(page, "u", "undo the last entry")
        expect(log.locator("tr.line-through")).to_have_count(1)

    def test_the_help_of_the_line_is_the_parsers_own(self):
        self.open()
        page = self.goto("/bench")
        page.get_by_label("entry line").focus()
        page.keyboard.type("?")
        expect(page.get_by_role("dialog", name="typing help")).to_contain_text("corrects the last entry of its kind")

    def test_a_step_is_skipped_with_a_reason(self):
        self.open()
        page = self.goto("/bench")
        steps = page.get_by_label("setting lane A")
        steps.get_by_role("button", name="Phone as cool as the room: skip").click()
        expect(page.get_by_role("button", name="Skip it")).to_be_disabled()
        page.keyboard.type("no probe at hand")
        page.keyboard.press("Enter")
        expect(steps).to_contain_text("no probe at hand")
        steps.get_by_role("button", name="Phone as cool as the room: open again").click()
        expect(steps).not_to_contain_text("no probe at hand")

    def test_a_void_lane_needs_its_reason(self):
        self.open()
        page = self.goto("/bench")
        page.get_by_role("button", name="End …").click()
        end = page.get_by_role("button", name="End lane A")
        expect(end).to_be_disabled()
        page.get_by_label("why", exact=True).fill("wrong phone")
        end.click()
        expect(page.get_by_text("Set up a lane for the first phone.")).to_be_visible()


class InTheHand(BenchTest):
    def setUp(self):
        super().setUp()
        self.small = self.browser.new_page(viewport={"width": 390, "height": 844}, color_scheme="light")
        self.small.set_default_timeout(PATIENCE_MS)
        self.addCleanup(self.small.close)

    def test_a_keypad_for_one_lane(self):
        lane, other = self.open(), self.open()
        hand = self.small
        hand.goto(f"{self.address}/hand/{self.token(lane)}")
        expect(hand.get_by_text("Ostrel Max")).to_be_visible()
        expect(hand.get_by_role("navigation")).to_have_count(0)
        for key in ("4", "7"):
            hand.get_by_role("button", name=key, exact=True).click()
        hand.get_by_role("button", name="Log").click()
        expect(hand.get_by_role("main").get_by_role("status")).to_contain_text("logged: battery 47 %")
        expect(hand.locator("header")).to_contain_text("47 %")
        hand.get_by_role("tab", name="°C").click()
        hand.get_by_role("radio", name="pad").click()
        for key in ("4", "1", ".", "5"):
            hand.get_by_role("button", name=key, exact=True).click()
        hand.get_by_role("button", name="Log").click()
        expect(hand.get_by_role("main").get_by_role("status")).to_contain_text("logged: pad 41.5 °C")
        hand.get_by_role("button", name="Undo").click()
        expect(hand.get_by_role("main").get_by_role("status")).to_contain_text("undo the last entry")
        log = [e["said"] for e in self.web.get(f"/api/lanes/{lane['id']}/log").json() if not e["undone"]]
        self.assertEqual(log, ["battery 47 %", "undone: pad 41.5 °C"])
        self.assertEqual(self.web.get(f"/api/lanes/{other['id']}/log").json(), [])

    def test_its_keys_are_large_and_all_in_sight(self):
        hand = self.small
        hand.goto(f"{self.address}/hand/{self.token(self.open())}")
        expect(hand.get_by_role("button", name="Log")).to_be_visible()
        for button in hand.get_by_role("button").all():
            box = button.bounding_box()
            self.assertGreaterEqual(min(box["width"], box["height"]), 48, button.inner_text())
            self.assertLessEqual(box["y"] + box["height"], 844)
        self.assertEqual(hand.evaluate("document.documentElement.scrollWidth"), 390)

    def test_what_is_odd_is_asked_here_too(self):
        hand = self.small
        lane = self.open()
        body = {"id": str(uuid.uuid4()), "line": "a 52"}
        self.web.post("/api/bench/lines", json=body)
        hand.goto(f"{self.address}/hand/{self.token(lane)}")
        for key in ("4", "7"):
            hand.get_by_role("button", name=key, exact=True).click()
        hand.get_by_role("button", name="Log").click()
        expect(hand.get_by_role("alert")).to_contain_text("47 after 52?")
        hand.get_by_role("button", name="Log it", exact=True).click()
        expect(hand.get_by_role("main").get_by_role("status")).to_contain_text("logged: battery 47 %")

    def press(self, keys):
        for key in keys:
            self.small.get_by_role("button", name=key, exact=True).click()

    def test_the_other_unit_is_one_button_away(self):
        hand, lane = self.small, self.open()
        hand.goto(f"{self.address}/hand/{self.token(lane)}")
        hand.get_by_role("tab", name="°C").click()
        for answer, logged in (("°F", "back 38.9 °C (typed 102 °F)"), ("keep °C", "back 102.0 °C")):
            self.press("102")
            hand.get_by_role("button", name="Log", exact=True).click()
            expect(hand.get_by_role("alert").first).to_contain_text("Did you mean 102 °F (38.9 °C)?")
            hand.get_by_role("button", name=answer, exact=True).click()
            expect(hand.get_by_role("main").get_by_role("status")).to_contain_text(f"logged: {logged}")
        hand.get_by_role("button", name="switch to °F").click()
        expect(hand.get_by_role("tab", name="°F")).to_be_visible()
        hand.get_by_role("radio", name="front").click()
        self.press("99")
        hand.get_by_role("button", name="Log", exact=True).click()
        expect(hand.get_by_role("main").get_by_role("status")).to_contain_text("logged: front 99.0 °F")

    def test_a_note_the_light_and_what_a_meter_shows(self):
        hand, lane = self.small, self.open()
        hand.goto(f"{self.address}/hand/{self.token(lane)}")
        status = hand.get_by_role("main").get_by_role("status")
        for tab, keys, logged in (("V", "9.02", "9.02 V"), ("A", "1.97", "1.97 A"), ("W", "17.8", "17.8 W")):
            hand.get_by_role("tab", name=tab, exact=True).click()
            self.press(keys)
            hand.get_by_role("button", name="Log", exact=True).click()
            expect(status).to_contain_text(f"logged: {logged}")
        hand.get_by_role("tab", name="note").click()
        hand.get_by_role("textbox", name="note").fill("moved it by a finger")
        hand.get_by_role("button", name="Log", exact=True).click()
        expect(status).to_contain_text("logged: note: moved it by a finger")
        for light in ("Light on", "Light off"):
            hand.get_by_role("button", name=light).click()
            expect(status).to_contain_text(f"charger's {light.lower()}")

    def test_it_ends_with_its_lane(self):
        lane = self.open()
        hand = self.small
        hand.goto(f"{self.address}/hand/{self.token(lane)}")
        expect(hand.get_by_role("button", name="Log")).to_be_visible()
        self.web.post("/api/bench/lines", json={"id": str(uuid.uuid4()), "line": "a end void enough"})
        expect(hand.get_by_text("This lane has ended.")).to_be_visible()

    def test_the_code_on_the_lane_leads_there(self):
        lane = self.open()
        page = self.goto("/bench")
        page.get_by_role("button", name="On a phone").click()
        expect(page.get_by_role("img", name="code of lane A")).to_be_visible()
        link = page.locator("a[href*='/hand/']")
        expect(link).to_have_attribute("href", re.compile(f"/hand/{self.token(lane)}$"))
        expect(page.get_by_text("only this machine can open it")).to_be_visible()


class InStep(BenchTest):
    def test_two_windows_and_a_phone_see_the_same(self):
        lane = self.open()
        page = self.goto("/bench")
        second = self.browser.new_page(viewport={"width": 1280, "height": 800})
        second.set_default_timeout(PATIENCE_MS)
        hand = self.browser.new_page(viewport={"width": 390, "height": 844})
        hand.set_default_timeout(PATIENCE_MS)
        for each in (second, hand):
            self.addCleanup(each.close)
        second.goto(f"{self.address}/bench")
        hand.goto(f"{self.address}/hand/{self.token(lane)}")
        for each in (page, second):
            expect(self.lane(each)).to_be_visible()
        expect(hand.get_by_role("button", name="Log")).to_be_visible()
        self.type(page, "31", "battery 31 %")
        expect(self.lane(second)).to_contain_text("31 %")
        expect(hand.locator("header")).to_contain_text("31 %")
        self.open()
        for each in (page, second):
            expect(self.lane(each, "B")).to_be_visible()
        self.web.post("/api/bench/lines", json={"id": str(uuid.uuid4()), "line": "b end void enough"})
        for each in (page, second):
            expect(self.lane(each, "B")).to_have_count(0)

    def test_offline_and_back(self):
        lane = self.open()
        page = self.goto("/bench")
        expect(self.lane(page)).to_be_visible()
        self.let_pass = "ERR_INTERNET_DISCONNECTED"
        page.context.set_offline(True)
        self.addCleanup(page.context.set_offline, False)
        self.type(page, "33", away=True)
        self.type(page, "36", away=True)
        expect(page.get_by_text("2 wait to be sent")).to_be_visible()
        self.assertEqual(self.web.get(f"/api/lanes/{lane['id']}/log").json(), [])
        page.context.set_offline(False)
        expect(page.get_by_text(re.compile("wait to be sent"))).to_have_count(0)
        expect(self.lane(page)).to_contain_text("36 %")
        log = self.web.get(f"/api/lanes/{lane['id']}/log").json()
        self.assertEqual([e["said"] for e in log], ["battery 33 %", "battery 36 %"])

    def test_an_alarm_stands_under_its_lane_and_says_what_to_do(self):
        lane = self.open()
        page = self.goto("/bench")
        expect(self.lane(page)).to_be_visible()
        headers = {"Authorization": f"Bearer {self.token(lane)}"}
        rows = [{"n": n, "celsius": 46.2, "position": "back"} for n in range(5)]
        self.web.post(f"/api/lanes/{lane['id']}/readings", json={"source": "p", "readings": rows}, headers=headers)
        expect(self.lane(page)).to_contain_text("46.2 °C at the phone. From 45 °C")
        expect(page.get_by_role("alert").filter(has_text="Lane A")).to_contain_text("46.2 °C at the phone")


class FromThePlan(BenchTest):
    def test_a_slot_is_started_on_the_bench_and_nothing_is_typed_again(self):
        ids = {k["label"]: k["id"] for k in self.web.get("/api/kit").json()}
        choice = {"phones": [ids["Ostrel Max"]], "chargers": [{"id": ids["Cairn disc"]}], "adapter": ids["Plug 20"]}
        wishes = {"start": "2026-01-05T08:00", "zone": "UTC", "attended": [{"begins": "00:00", "ends": "24:00"}]}
        body = {"question": "Which?", "card": {"name": "From ten to full"}, "choice": choice, "wishes": wishes}
        self.assertEqual(self.web.post("/api/plans", json=body).status_code, 201)
        page = self.goto("/bench/new")
        page.get_by_role("button", name=re.compile("Ostrel Max on Cairn disc")).click()
        expect(page.get_by_text("For the plan “Which?”")).to_be_visible()
        page.get_by_label("or practise with stand-ins").select_option("120")
        page.get_by_role("button", name="Open the lane").click()
        expect(self.lane(page)).to_contain_text("Cairn disc · Plug 20")
        page.get_by_role("button", name=re.compile("^Done: Phone at 10 %")).click()
        lane = self.opened_lane()
        self.assertEqual(lane["method"], "From ten to full")
        expect(page.get_by_label("setting lane A").get_by_label("seen by the instruments").first).to_be_visible()
        self.web.post(f"/api/lanes/{lane['id']}/placed")
        expect(self.lane(page)).to_contain_text(re.compile("ramp|plateau"))
        page.keyboard.press("2")
        expect(page.locator('[data-slot][aria-label*=", running"]')).to_have_count(1)
        page.keyboard.press("3")
        self.type(page, "a end early enough", "stopped early", ends=True)
        expect(page.get_by_label("where it comes from")).to_contain_text("planned for “Which?”")


class Checks(BenchTest):
    def test_a_meter_is_checked_against_a_known_load(self):
        page = self.goto("/bench/checks")
        page.get_by_label("meter that is checked").select_option("Inline A")
        for i, watts in enumerate(("10,2", "10.21", "10.19"), start=1):
            page.get_by_label(f"reading {i} of the meter, W").fill(watts)
        page.get_by_role("button", name="Keep the check").click()
        expect(page.get_by_role("table", name="checks")).to_contain_text("reads 2.00")
        page.get_by_role("button", name="delete the check of Inline A").click()
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("table", name="checks")).to_contain_text("Inline A")

    def test_chains_are_spot_checked_in_a_row(self):
        page = self.goto("/bench/spot")
        page.get_by_label("phone", exact=True).select_option("Ostrel Max")
        page.get_by_label("adapter", exact=True).select_option("Plug 20")
        # Five minutes in five seconds: a busy machine asks the meter often enough all the same.
        page.get_by_label("minutes", exact=True).select_option("5")
        page.get_by_label("or practise with stand-ins").select_option("60")
        table = page.get_by_role("table", name="spot checks")
        over = set()
        for charger, like in (("Cairn disc", "15 W"), ("Moraine pad", "like 7.5 W")):
            page.get_by_label("charger", exact=True).select_option(charger)
            page.get_by_role("button", name="Check this chain").click()
            place = page.get_by_role("button", name="The phone is placed")
            expect(place).to_be_visible()
            over.add(self.opened_lane(lambda view: view["id"] not in over and view["volts"] is not None)["id"])
            place.click()
            expect(table.get_by_role("row", name=re.compile(f"{charger}, Plug 20.*{like}"))).to_be_visible()
            expect(page.get_by_role("button", name="Check this chain")).to_be_enabled()
        expect(page.get_by_text("Repeat Cairn disc, Plug 20 at the end")).to_be_visible()

    def test_a_chain_is_spot_checked_by_hand(self):
        # It ends by itself once its minutes are over and watts were typed: not before both are, on a busy machine.
        self.enterContext(mock.patch("jaunecharge.live.keeper.SPOT_RESTS_S", 85.0))
        page = self.goto("/bench/spot")
        page.get_by_label("phone", exact=True).select_option("Ostrel Max")
        page.get_by_label("charger", exact=True).select_option("wired")
        page.get_by_label("adapter or pack", exact=True).select_option("Col bank")
        page.get_by_label("moved about for the best").check()
        page.get_by_label("minutes", exact=True).select_option("1")
        page.get_by_role("button", name="Check this chain").click()
        page.get_by_role("button", name="The phone is placed").click()
        check = page.get_by_role("main").get_by_role("status").first
        expect(check).to_contain_text("type what the meter shows")
        # The clock of the test does not wait a minute: it was placed two ago.
        lane = self.opened_lane()
        self.web.post("/api/bench/lines", json={"id": str(uuid.uuid4()), "line": f"{lane['name']} placed @-2"})
        for name, figure in (
            ("battery, %", "35"),
            ("phone's back, °C", "33.5"),
            ("watts, W", "17.9"),
            ("watts, W", "18.1"),
        ):
            page.get_by_label(name).fill(figure)
            page.get_by_label(name).press("Enter")
        row = page.get_by_role("table", name="spot checks").get_by_role("row").nth(1)
        expect(row).to_contain_text(
            re.compile(r"Ostrel Max.*by wire, Col bank, moved about for the best.*18\.0 ± 0\.2 W")
        )
        for words in ("35 %", "33.5 °C", "like 15 W"):
            expect(row).to_contain_text(words)
        expect(page.get_by_role("button", name="Check this chain")).to_be_enabled()
        page.goto(f"{self.address}/runs/spot")
        expect(page.get_by_role("table", name="spot checks")).to_contain_text("moved about for the best")
        page.get_by_role("link", name="Runs", exact=True).click()
        expect(page.get_by_text("No measured run yet")).to_be_visible()


class Accessible(Audit):
    def test_the_bench_and_what_belongs_to_it(self):
        factors = {"phone": "Ostrel Max", "charger": "Cairn disc 15", "adapter": "Plug 20"}
        lanes = [self.web.post("/api/lanes", json={"factors": factors}).json()["view"] for _ in range(2)]
        self.web.post(f"/api/lanes/{lanes[1]['id']}/placed")
        for watts in (0.4, 17.0, 17.2):
            line = {"id": str(uuid.uuid4()), "line": f"{lanes[1]['name']} {watts}w 46c", "sure": True}
            self.web.post("/api/bench/lines", json=line)
        token = self.web.get(f"/api/lanes/{lanes[0]['id']}/link").json()["token"]
        for page in self.in_both_themes():
            page.goto(f"{self.address}/bench?lane={lanes[1]['name']}")
            page.get_by_role("button", name="Log", exact=True).click()
            expect(page.get_by_role("table", name=re.compile("log of lane"))).to_be_visible()
            self.audit("bench")
            for path, there in (
                ("bench/new", "Set up a lane"),
                ("bench/spot", "Spot check"),
                ("bench/checks", "Meter check"),
            ):
                page.goto(f"{self.address}/{path}")
                expect(page.get_by_role("heading", name=there)).to_be_visible()
                self.audit(path)
            page.goto(f"{self.address}/hand/{token}")
            expect(page.get_by_role("button", name="Log")).to_be_visible()
            self.audit("in the hand")
