"""The plan as a person uses it: made, looked at, followed, changed."""

import datetime as dt
import re

import icalendar
from playwright.sync_api import expect

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.demo.plan import QUESTION
from jaunecharge.store.kit import add_all
from tests.browser.base import Audit, BrowserTest

LINES = (
    "phone Ostrel Mini 3180mAh mpp@12 small magnets", "phone Ostrel Max 4620mAh mpp large magnets",
    "puck Cairn disc mpp claims 15W", "pad Moraine pad magnet-only claims 15W", "adapter Plug 20 20W",
    "adapter Old plug 5V1A", "cable Braided 3A",
)  # fmt: skip


class PlanTest(BrowserTest):
    def setUp(self):
        super().setUp()
        with self.database.session() as session:
            for table in ("plans", "cards", "runs", "kit"):
                session.connection().exec_driver_sql(f"DELETE FROM {table}")
            add_all(session, [kit_from_line(line) for line in LINES], "")

    def pick(self, group, *names):
        for name in names:
            self.page.get_by_role("group", name=group, exact=True).get_by_role("button", name=name).click()

    def new_plan(self, **more):
        """A plan by way of the page, somebody there day and night so that it can begin now."""
        page = self.goto("/plan/new")
        page.get_by_label("the question").fill("Which disc?")
        self.pick("phones", "Ostrel Mini", "Ostrel Max")
        self.pick("on", "Cairn disc", "Moraine pad")
        page.get_by_label("adapter").select_option(label="Plug 20 for all: isolates the charger")
        page.get_by_label("attended from").fill("00:00")
        page.get_by_label("attended to").fill("24:00")
        page.get_by_label("meters").fill("2")
        expect(page.get_by_text("6 runs.", exact=True)).to_be_visible()
        page.get_by_role("button", name="Schedule it").click()
        expect(page).to_have_url(re.compile("/plan/[0-9a-f-]{36}$"))
        expect(page.get_by_role("group", name="schedule, a lane a phone")).to_be_visible()
        return page

    def slots(self, state=""):
        return self.page.locator(f'[data-slot][aria-label*=", {state}"]')

    def panel(self):
        return self.page.get_by_role("region", name=re.compile("^Ostrel"))


class Making(PlanTest):
    def test_an_empty_station_says_what_to_do_first(self):
        page = self.goto("/runs")
        expect(page.get_by_text("to read your first run")).to_be_visible()
        page.keyboard.press("2")
        expect(page.get_by_text("Write the question, before the first run.")).to_be_visible()
        page.keyboard.press("p")
        expect(page.get_by_label("the question")).to_be_focused()
        expect(page.get_by_role("button", name="Schedule it")).to_be_disabled()
        expect(page.get_by_text("Pick at least one phone").first).to_be_visible()

    def test_from_question_to_schedule(self):
        page = self.new_plan()
        expect(page.get_by_role("heading", name="Which disc?")).to_be_visible()
        expect(page.get_by_text(re.compile("Would detect a difference of"))).to_be_visible()
        expect(self.slots("planned")).to_have_count(6)
        expect(page.get_by_role("button", name=re.compile("^Next: drain Ostrel"))).to_be_visible()
        expect(page.get_by_role("region", name="what it costs the phones")).to_contain_text("none to dead")

    def test_what_it_can_show_changes_with_card_and_rounds(self):
        page = self.goto("/plan/new")
        self.pick("phones", "Ostrel Max")
        self.pick("on", "Cairn disc", "Moraine pad")
        shown = page.get_by_label("what this plan can show")
        expect(shown).to_contain_text("Would detect a difference of")
        expect(shown).to_contain_text("spread of a run is assumed, 6 %")
        one = shown.locator("td.bg-primary").inner_text()
        page.get_by_role("radio", name="To eighty, three repeats").click()
        expect(shown).not_to_contain_text("is assumed, 6 %")
        expect(shown.locator("td.bg-primary")).not_to_have_text(one)
        self.assertLess(int(shown.locator("td.bg-primary").inner_text()), int(one))
        page.get_by_role("radio", name="From dead").click()
        expect(shown).to_contain_text("deep discharges for each phone, which age a battery")
        page.get_by_role("radio", name="Spot check").click()
        expect(shown).to_contain_text("watts, not minutes")

    def test_a_pointless_cell_is_grey_with_its_reason_and_can_be_forced(self):
        page = self.goto("/plan/new")
        self.pick("phones", "Ostrel Max")
        self.pick("on", "Cairn disc", "wired baseline")
        page.get_by_label("adapter").select_option(label="Old plug for all: isolates the charger")
        cell = page.get_by_role("checkbox", name="Ostrel Max on Cairn disc")
        expect(cell).not_to_be_checked()
        expect(page.get_by_role("table", name="matrix")).to_contain_text("does not charge")
        cell.click()
        expect(page.get_by_role("table", name="matrix")).to_contain_text("forced: does not charge")
        expect(page.get_by_label("what this plan can show")).to_contain_text("is run although does not charge")

    def test_factors_by_one_click_and_by_name(self):
        page = self.goto("/plan/new")
        self.pick("phones", "Ostrel Max")
        self.pick("on", "Cairn disc", "Moraine pad")
        self.pick("varied", "airflow")
        self.pick("airflow", "fan on the phone")
        rows = page.get_by_role("table", name="matrix").get_by_role("row")
        expect(rows).to_have_count(1 + 4)
        page.get_by_label("another factor").select_option(label="alignment")
        page.get_by_label("levels of alignment").fill("centred, 5 mm off")
        expect(rows).to_have_count(1 + 8)
        page.get_by_role("checkbox", name="Ostrel Max on Moraine pad, fan, 5 mm off").click()
        expect(page.get_by_role("table", name="matrix")).to_contain_text("left out")

    def test_impossible_wishes_say_which_and_nothing_is_kept(self):
        page = self.goto("/plan/new")
        self.pick("phones", "Ostrel Max")
        self.pick("on", "Cairn disc")
        page.get_by_label("attended from").fill("08:00")
        page.get_by_label("attended to").fill("09:00")
        expect(page.get_by_text(re.compile("the longest attended stretch is 1 h 00")).first).to_be_visible()
        expect(page.get_by_role("button", name="Schedule it")).to_be_disabled()
        page.get_by_label("attended to").fill("late")
        expect(page.get_by_text(re.compile("“late” is no time of day")).first).to_be_visible()
        page.get_by_label("attended to").fill("22:00")
        page.get_by_label("over by").fill("2020-01-01T08:00")
        expect(page.get_by_text(re.compile("end comes before the start")).first).to_be_visible()

    def test_a_card_of_ones_own(self):
        page = self.goto("/plan/new")
        page.get_by_role("button", name="a card of my own").click()
        form = page.get_by_role("dialog", name="a card of my own")
        form.get_by_role("button", name="Keep this card").click()
        expect(form.get_by_text("it has no name; give it one")).to_be_visible()
        form.get_by_label("name").fill("Hut night")
        form.get_by_label("end", exact=True).select_option("to eighty")
        expect(form.get_by_text("after 80 to 85 % every charger slows")).to_be_visible()
        form.get_by_role("button", name="Keep this card").click()
        expect(page.get_by_role("radio", name="Hut night")).to_have_attribute("aria-checked", "true")
        page = self.goto("/plan/cards")
        page.get_by_role("button", name="delete Hut night").click()
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("button", name="change Hut night").click()
        form = page.get_by_role("dialog", name="change Hut night")
        form.get_by_label("check-ins").select_option("5")
        form.get_by_role("button", name="Save").click()
        expect(page.get_by_label("cards")).to_contain_text("to 80 %, check-ins every 5 min")


class Following(PlanTest):
    def test_the_next_thing_is_done_and_undone_by_keyboard(self):
        page = self.new_plan()
        page.keyboard.press("d")
        expect(self.panel()).to_contain_text("Before it starts")
        self.panel().get_by_role("button", name="Drain begins").click()
        expect(self.slots("draining")).to_have_count(1)
        page.get_by_role("status").get_by_role("button", name="Undo").click()
        expect(self.slots("draining")).to_have_count(0)
        first = self.slots().first
        first.focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Enter")
        expect(self.panel()).to_be_visible()
        page.keyboard.press("Escape")
        expect(self.panel()).to_have_count(0)

    def test_started_void_and_made_again(self):
        page = self.new_plan()
        page.keyboard.press("d")
        self.panel().get_by_role("button", name="It has begun").click()
        expect(self.slots("running")).to_have_count(1)
        self.panel().get_by_role("button", name="Void").click()
        self.panel().get_by_label("why it is void").fill("phone was moved")
        page.keyboard.press("Enter")
        expect(self.slots("void")).to_have_count(1)
        expect(self.slots("planned")).to_have_count(6)
        expect(page.get_by_text("rescheduled: 1")).to_be_visible()
        expect(page.locator("svg")).to_contain_text(["void: phone"])

    def test_a_moment_that_is_still_to_come_is_refused(self):
        page = self.new_plan()
        page.keyboard.press("d")
        later = (dt.datetime.now() + dt.timedelta(days=2)).strftime("%Y-%m-%dT%H:%M")
        self.panel().get_by_label("when it happened").fill(later)
        self.panel().get_by_role("button", name="Drain begins").click()
        expect(self.panel().get_by_role("alert")).to_contain_text("still to come")

    def test_a_run_is_read_into_its_slot_and_nothing_is_typed_twice(self):
        page = self.new_plan()
        page.locator('[data-slot][aria-label^="Ostrel Max on Cairn disc"] path').first.click()
        self.panel().get_by_role("button", name="It has begun").click()
        self.panel().get_by_role("link", name="Read its file").click()
        expect(page.get_by_text("For the plan: Ostrel Max on Cairn disc. It will fill its slot.")).to_be_visible()
        expect(page.get_by_label("phone", exact=True)).to_have_value("Ostrel Max")
        expect(page.get_by_label("adapter", exact=True)).to_have_value("Plug 20")
        expect(page.get_by_label("battery, mAh")).to_have_value("4620")
        expect(page.get_by_label("read every, min")).to_have_value("10")
        rows = "\n".join(f"{t},{9.0},{0.05 if t < 60 else 1.5}" for t in range(0, 4000, 10))
        self.choose("meter.csv", f"time_s,volts,amps\n{rows}\n")
        page.get_by_role("textbox", name="Battery percentages").fill("0 10\n30 40\n60 70")
        self.read_run()
        expect(page.get_by_label("where it comes from")).to_contain_text("planned for “Which disc?”")
        page.get_by_role("link", name="From ten to full").click()
        expect(self.slots("done")).to_have_count(1)
        page.locator('[data-slot][aria-label*=", done"] path').first.click()
        expect(self.panel().get_by_role("link", name="its run: Ostrel Max on Cairn disc")).to_be_visible()

    def test_list_calendar_and_table(self):
        page = self.new_plan()
        page.keyboard.press("l")
        expect(page.get_by_role("table", name="schedule").get_by_role("row")).to_have_count(7)
        with page.expect_download() as download:
            page.get_by_role("link", name="Calendar").click()
        calendar = icalendar.Calendar.from_ical(download.value.path().read_bytes())
        self.assertEqual(len([e for e in calendar.walk("VEVENT") if str(e["SUMMARY"]).startswith("Start")]), 6)
        page.get_by_role("button", name="more for this plan").click()
        with page.expect_download() as download:
            page.get_by_role("link", name="Schedule as CSV").click()
        self.assertEqual(len(download.value.path().read_text().splitlines()), 7)

    def test_changed_laid_aside_and_brought_back(self):
        page = self.new_plan()
        page.keyboard.press("e")
        expect(page.get_by_label("the question")).to_have_value("Which disc?")
        self.pick("on", "wired baseline")
        expect(page.get_by_text("8 runs.", exact=True)).to_be_visible()
        page.get_by_role("button", name="Change the plan").click()
        expect(self.slots("planned")).to_have_count(8)
        expect(self.page.locator('[data-slot][aria-label*="by wire"]')).not_to_have_count(0)
        page.get_by_role("button", name="more for this plan").click()
        page.get_by_role("button", name="Delete this plan").click()
        expect(page.get_by_text("Write the question")).to_be_visible()
        page.get_by_role("button", name="restore").click()
        expect(page.get_by_role("heading", name="Which disc?")).to_be_visible()


class Late(PlanTest):
    def test_what_is_late_is_said_and_the_rest_planned_anew(self):
        ids = {k["label"]: k["id"] for k in self.web.get("/api/kit").json()}
        start = (dt.datetime.now(dt.UTC) - dt.timedelta(hours=2)).strftime("%Y-%m-%dT%H:%M")
        choice = {
            "phones": [ids["Ostrel Max"]], "chargers": [{"id": ids["Cairn disc"]}], "adapter": ids["Plug 20"],
        }  # fmt: skip
        wishes = {"start": start, "zone": "UTC", "attended": [{"begins": "00:00", "ends": "24:00"}]}
        body = {"question": "Late?", "card": {"name": "From ten to full"}, "choice": choice, "wishes": wishes}
        made = self.web.post("/api/plans", json=body)
        self.assertEqual(made.status_code, 201, made.text)
        page = self.goto("/plan")
        expect(page.get_by_text("Late: Ostrel Max on Cairn disc.")).to_be_visible()
        page.get_by_role("status").get_by_role("button", name="Reschedule the rest from now").click()
        expect(page.get_by_text("Late: Ostrel Max on Cairn disc.")).to_have_count(0)
        page.get_by_text("rescheduled: 1").click()
        expect(page.get_by_text("rescheduled from here")).to_be_visible()

    def test_when_all_is_over_the_limits_go_back_on(self):
        page = self.new_plan()
        for slot in self.web.get(f"/api/plans/{page.url.rsplit('/', 1)[1]}").json()["slots"]:
            self.web.post(f"/api/slots/{slot['id']}/happened", json={"what": "void", "reason": "x", "again": False})
        page.reload()
        expect(page.get_by_text("Put charge limits and optimised charging back on.")).to_be_visible()
        expect(page.get_by_role("button", name=re.compile("^Next"))).to_have_count(0)


class Demonstration(BrowserTest):
    with_demo = True

    def test_the_hut_plan(self):
        page = self.goto("/plan")
        expect(page.get_by_role("heading", name=re.compile("in the bunk rooms"))).to_be_visible()
        expect(page.get_by_text(re.compile("always change together: Serac dock 15"))).to_be_visible()
        expect(page.locator('[data-slot][aria-label*=", void"]')).to_have_count(1)
        expect(page.get_by_text("rescheduled: 2")).to_be_visible()
        expect(page.get_by_role("region", name="when it is over")).to_contain_text("times in Europe/Zurich")
        page.locator('[data-slot][aria-label*=", done"] path').first.click()
        page.get_by_role("link", name=re.compile("^its run")).click()
        expect(page.get_by_label("where it comes from")).to_contain_text("Bunk room")

    def test_fahrenheit_reaches_rooms_and_every_table(self):
        """Only what people typed, and names, keep the unit that they were written in."""
        page = self.goto("/plan")
        page.get_by_role("button", name="switch °C and °F").click()
        for path, shown in (
            ("/plan", "room about 75 °F"),
            ("/plan/cards", "chamber 77 °F"),
            ("/bench/new", "room, °F"),
            ("/shelf?room=33", "91.4"),
            ("/shelf/kit", "thermocouple, ±0.9 °F"),
            ("/runs", "°F"),
            ("/runs/heat", "where most have about 7"),
            ("/versus/table", "Plug 20, 7"),
        ):
            with self.subTest(path):
                self.goto(path)
                expect(page.get_by_role("status", name=re.compile("loading"))).to_have_count(0)
                page.wait_for_load_state("networkidle")
                said = page.evaluate(SAID).replace("\u00a0", " ")
                self.assertIn(shown, said)
                for typed in (QUESTION, "Chamber 25 °C", "which bedside disc", "°C or °F", "switch °C and °F"):
                    said = re.sub(re.escape(typed) + r".*", "", said, flags=re.IGNORECASE)
                self.assertNotRegex(said, r"\d °C|\d K\b")


SAID = """document.body.innerText + '\\n' + [...document.querySelectorAll('[title],[aria-label],input')]
  .map((e) => [e.title, e.getAttribute('aria-label'), e.value].join(' | ')).join('\\n')"""


class Accessible(Audit):
    def test_the_plan_its_making_and_its_cards(self):
        for page in self.in_both_themes():
            page.goto(f"{self.address}/plan")
            page.locator("[data-slot] path").first.click()
            expect(page.get_by_role("region", name=re.compile("Ostrel|Tarn"))).to_be_visible()
            self.audit("plan")
            page.goto(f"{self.address}/plan?list")
            expect(page.get_by_role("table", name="schedule")).to_be_visible()
            self.audit("list")
            page.goto(f"{self.address}/plan/new")
            page.get_by_role("group", name="phones").get_by_role("button").first.click()
            page.get_by_role("group", name="on", exact=True).get_by_role("button").first.click()
            expect(page.get_by_role("table", name="matrix")).to_be_visible()
            expect(page.locator("[aria-busy=false]")).to_be_visible()
            self.audit("making")
            page.get_by_role("button", name="a card of my own").click()
            self.audit("card")
            page.goto(f"{self.address}/plan/cards")
            expect(page.get_by_label("cards")).to_be_visible()
            self.audit("cards")
