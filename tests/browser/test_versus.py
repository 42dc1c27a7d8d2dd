"""Versus in the real interface: what is compared, in words and pictures, by mouse and by keyboard."""

import datetime as dt
import re
from urllib.parse import unquote
from zoneinfo import ZoneInfo

from playwright.sync_api import expect

from tests.browser.base import Audit, BrowserTest

TABS = ("In words", "Curves", "What each thing does", "Energy and price", "A claim", "Another phone")


class VersusTest(BrowserTest):
    with_demo = True

    def open(self, title="everything on Ostrel Max", query=""):
        page = self.goto("/versus")
        page.get_by_role("link", name=title).click()
        expect(self.words()).to_be_visible()
        if query:
            page.goto(page.url + query)
            expect(page.get_by_role("tabpanel")).to_be_visible()
        return page

    def words(self):
        return self.page.get_by_label("what the times support")

    def stack(self):
        return self.page.get_by_role("region", name="ribbons")

    def choose_window(self, name):
        chip = self.page.get_by_role("form", name="window").get_by_role("button", name=name)
        chip.click()
        # It is pressed when the comparison over it is there.
        expect(chip).to_have_attribute("aria-pressed", "true")

    def rows(self, page):
        """How many rows the address of a page makes: it depends on what of the plan has happened by this hour."""
        runs = unquote(re.search("runs=([^&]+)", page.url)[1]).split(",")
        return len(self.web.get("/api/versus", params={"run": runs}).json()["rows"])

    def when(self, link):
        """The hour at which the run behind a link began, where it was made; nothing where that is not known."""
        run = self.web.get(f"/api/runs/{link.get_attribute('href').split('/')[-1]}").json()
        if run["started_at"] is None:
            return ""
        return dt.datetime.fromisoformat(run["started_at"]).astimezone(ZoneInfo(run["zone"])).strftime("%H:%M")

    def row(self, label):
        return self.stack().locator("[data-row]").filter(has=self.page.get_by_role("button", name=label, exact=True))


class Compared(VersusTest):
    def test_one_click_from_nothing_to_a_comparison(self):
        page = self.goto("/runs")
        expect(page.get_by_role("listitem").first).to_be_visible()
        page.keyboard.press("5")
        expect(page.get_by_text("Which is faster, cooler, thriftier?")).to_be_visible()
        expect(page.get_by_role("listitem").first).to_contain_text("a plan")
        page.get_by_role("link", name="everything on Tarn 9").click()
        expect(self.stack().get_by_role("img")).to_have_count(self.rows(page))
        expect(page.get_by_label("the whole in words")).to_contain_text("from 10 to 80 %")

    def test_pairs_are_told_in_words_with_fairness(self):
        self.open()
        first = self.words().get_by_role("listitem").first
        expect(first).to_contain_text(re.compile(r"is sooner than .+ by \d+ ± \d+\smin from\s10\sto\s\d+\s%"))
        expect(first).to_contain_text("less time")
        expect(first).to_contain_text("higher rate")
        expect(first).to_contain_text("fair: only the")
        tie = self.words().get_by_role("listitem").filter(has_text="no difference shown").first
        expect(tie.get_by_role("img")).to_have_attribute("aria-label", re.compile("min apart, noise"))

    def test_what_stands_behind_a_pair_is_a_click_away(self):
        self.open()
        first = self.words().get_by_role("listitem").first
        first.get_by_role("button").first.click()
        expect(first).to_contain_text("degrees of freedom")
        expect(first).to_contain_text("largest gap")
        expect(first).to_contain_text(re.compile("From 10 to 50"))

    def test_an_unfair_pair_leads_to_the_nearest_fair_one(self):
        page = self.open()
        count = self.rows(page)
        self.words().get_by_role("button", name="show all").click()
        unfair = self.words().get_by_role("listitem").filter(has_text="nearest fair").first
        expect(unfair).to_contain_text("a bundle")
        unfair.locator("p").get_by_role("button").first.click()
        expect(self.stack().locator("[data-row]")).to_have_count(2)
        expect(self.words().get_by_role("listitem").first).to_contain_text("fair: only the")
        page.go_back()
        expect(self.stack().locator("[data-row]")).to_have_count(count)

    def test_runs_that_do_not_count_say_why(self):
        self.open()
        self.choose_window("10 to 100")
        expect(self.row("Cairn disc 15, Thin case")).to_contain_text("A charge limit held")
        expect(self.row("Serac dock 15, on Plug 30 twin, Rubber case, from 35 %")).to_contain_text("covers 35 to 100 %")

    def test_the_window_is_chosen_or_typed(self):
        page = self.open()
        self.choose_window("35 to 81")
        expect(self.row("Serac dock 15, on Plug 30 twin, Rubber case, from 35 %")).not_to_contain_text("covers")
        page.get_by_label("from, %").fill("20")
        page.get_by_label("to, %", exact=True).fill("60")
        page.get_by_role("button", name="Compare", exact=True).click()
        expect(self.stack()).to_contain_text("20 to 60 %")
        page.get_by_label("from, %").fill("90")
        page.get_by_role("button", name="Compare", exact=True).click()
        expect(page.get_by_text("is empty")).to_be_visible()
        # What was typed stands there still, to be mended.
        expect(page.get_by_label("from, %")).to_have_value("90")
        page.get_by_label("from, %").fill("30")
        page.get_by_role("button", name="Compare", exact=True).click()
        expect(self.stack()).to_contain_text("30 to 60 %")
        page.get_by_label("from, %").fill("90")
        page.get_by_role("button", name="Compare", exact=True).click()
        page.get_by_role("button", name="the window that they share").click()
        expect(self.stack()).to_contain_text("35 to 81 %")

    def test_laid_together_by_a_percentage(self):
        page = self.open()
        page.get_by_label("line up at").select_option("common percent")
        expect(self.stack()).to_contain_text("from 10 %")
        expect(page).to_have_url(re.compile("by=percent"))

    def test_a_row_is_chosen_opened_taken_out_and_brought_back(self):
        page = self.open()
        total = self.words().get_by_role("listitem").count()
        self.row("Moraine magnet pad").get_by_role("button", name="Moraine magnet pad", exact=True).click()
        expect(self.words().get_by_role("listitem").filter(has_not_text="Moraine magnet pad")).to_have_count(0)
        page.keyboard.press("Escape")
        expect(self.words().get_by_role("listitem")).to_have_count(total)
        self.choose_window("10 to 80")
        cairn = self.row("Cairn disc 15")
        opener = cairn.get_by_role("button", name=re.compile(r"^\d+ runs of Cairn disc 15"))
        opener.click()
        expect(cairn.get_by_role("link")).to_have_count(int(opener.inner_text().split()[0]))
        # Each with its hour at the hut, whatever clock this machine has.
        hours = [(link, self.when(link)) for link in cairn.get_by_role("link").all()]
        self.assertTrue(any(hour for _, hour in hours))
        for link, hour in hours:
            expect(link).to_contain_text(hour)
        cairn.hover()
        cairn.get_by_role("button", name="take Cairn disc 15 out").click()
        expect(cairn).to_have_count(0)
        page.get_by_role("status").get_by_role("button", name="Undo").click()
        expect(self.row("Cairn disc 15")).to_be_visible()

    def test_one_cursor_reads_all_ribbons_by_mouse_and_keys(self):
        page = self.open()
        ribbons = self.stack().get_by_role("group", name=re.compile("^ribbons on one scale"))
        box = self.row("Moraine magnet pad").get_by_role("img").bounding_box()
        page.mouse.move(box["x"] + box["width"] * 0.15, box["y"] + 5)
        expect(ribbons.get_by_text(re.compile(r"[\d.]+ W · [\d.]+ °C"))).to_have_count(self.rows(page))
        expect(ribbons.get_by_text(re.compile(r"\d+ % · [\d.]+ W"))).not_to_have_count(0)
        page.mouse.move(5, 5)
        expect(ribbons.get_by_text(re.compile("W ·"))).to_have_count(0)
        ribbons.focus()
        page.keyboard.press("ArrowRight")
        expect(self.stack().get_by_text("0:05", exact=True)).to_be_visible()
        page.keyboard.press("u")
        expect(ribbons.get_by_text(re.compile("°F")).first).to_be_visible()


class Seen(VersusTest):
    def test_curves_and_their_table(self):
        page = self.open()
        page.get_by_role("tab", name="Curves").click()
        panel = page.get_by_role("tabpanel")
        expect(panel.get_by_role("img", name=re.compile("^battery of"))).to_be_visible()
        row = panel.get_by_role("row").filter(has_text="Wired")
        expect(row).to_contain_text(re.compile(r"100 %"))
        expect(panel.get_by_role("columnheader", name="10 to 80 %")).to_be_visible()
        # More curves than dashes: each bears the number of its row.
        numbers = panel.locator("svg circle + text")
        expect(numbers).to_have_count(self.rows(page))
        expect(row).to_contain_text(re.compile("^1Wired"))

    def test_effects(self):
        page = self.open()
        page.get_by_role("tab", name="What each thing does").click()
        airflow = page.get_by_role("row").filter(has_text="airflow")
        expect(airflow).to_contain_text("charger's own fan")
        expect(airflow).to_contain_text(re.compile(r"no difference shown|%\sless"))
        page.keyboard.press("ArrowRight")
        expect(page.get_by_role("tab", name="Energy and price")).to_have_attribute("aria-selected", "true")

    def test_money_and_watt_hours(self):
        page = self.open()
        page.get_by_role("tab", name="Energy and price").click()
        panel = page.get_by_role("tabpanel")
        expect(panel.get_by_role("img", name=re.compile("against the hottest"))).to_be_visible()
        expect(panel.get_by_role("img", name=re.compile("against the charger's price in EUR"))).to_be_visible()
        expect(panel).to_contain_text(re.compile(r"costs \d+\sEUR more than .+ and saves \d+ to \d+\smin"))
        row = panel.get_by_role("row").filter(has_text="Moraine magnet pad")
        expect(row).to_contain_text(re.compile(r"[\d.]+ Wh"))
        panel.get_by_role("button", name="change").click()
        form = page.get_by_role("form", name="habits and tariff")
        form.get_by_label("it charges").fill("100")
        form.get_by_role("button", name="Apply").click()
        expect(panel).to_contain_text("100 charges")
        page.get_by_role("status").get_by_role("button", name="Undo").click()
        expect(panel).to_contain_text("365 charges")

    def test_a_claim_is_checked_under_every_reading(self):
        page = self.open()
        page.keyboard.press("c")
        page.get_by_label("the claim").fill("35 % faster")
        page.keyboard.press("Enter")
        panel = page.get_by_role("tabpanel")
        expect(panel).to_contain_text("Understood as: 35\u00a0% faster")
        for to in (50, 80):
            expect(panel.get_by_role("row").filter(has_text=f"less time from 10 to {to}")).to_be_visible()
        expect(panel.get_by_role("row").filter(has_text="more charge after 30")).to_be_visible()
        page.get_by_role("button", name="60\u00a0% in 45 minutes").click()
        expect(panel).to_contain_text("points gained")
        page.get_by_label("the claim").fill("delivers 15 W")
        page.keyboard.press("Enter")
        expect(panel).to_contain_text("this checks speed claims. Watt claims stand on each run")

    def test_another_phone_is_never_drawn_like_a_measurement(self):
        page = self.open()
        page.keyboard.press("o")
        panel = page.get_by_role("tabpanel")
        panel.get_by_label("the other phone").select_option("Ostrel Mini")
        panel.get_by_role("button", name="Estimate").click()
        estimates = panel.get_by_role("region", name="estimates")
        expect(estimates).to_contain_text("Estimated, not measured")
        expect(estimates.get_by_role("row").filter(has_text="Moraine magnet pad")).to_contain_text("~")
        expect(estimates.get_by_role("row").filter(has_text="minutes do not carry over").first).to_contain_text(
            "no estimate"
        )
        # The rows of the measured ones stay as they are.
        expect(self.stack().get_by_text("~")).to_have_count(0)

    def test_runs_are_added_by_hand(self):
        page = self.open("everything on Tarn 9")
        page.keyboard.press("a")
        dialog = page.get_by_role("dialog", name="runs to compare")
        dialog.get_by_label("filter the runs to choose").fill("quill")
        dialog.get_by_role("listitem").first.get_by_role("checkbox").check()
        dialog.get_by_role("button", name=re.compile(r"^Compare \d+$")).click()
        expect(self.stack().locator("[data-row]").filter(has_text="Quill Lite")).to_be_visible()

    def test_runs_are_chosen_in_their_list(self):
        page = self.goto("/runs")
        expect(page.get_by_role("listitem").first).to_be_visible()
        page.keyboard.press("ArrowDown")
        page.keyboard.press("x")
        expect(page.get_by_role("button", name="Compare: choose another")).to_be_disabled()
        page.get_by_role("listitem").nth(2).get_by_role("checkbox").check()
        expect(page.get_by_role("button", name="Compare 2 runs")).to_be_enabled()
        page.keyboard.press("v")
        expect(page).to_have_url(re.compile("/versus"))
        expect(self.stack().locator("[data-row]")).to_have_count(2)

    def test_one_run_is_not_enough(self):
        run = self.web.get("/api/runs").json()[0]["id"]
        page = self.goto(f"/versus?runs={run}")
        expect(page.get_by_text("There is one run only")).to_be_visible()


class Table(VersusTest):
    def test_medians_open_their_runs(self):
        page = self.open()
        page.keyboard.press("m")
        expect(page.get_by_role("heading", name="Phones × chargers")).to_be_visible()
        row = page.get_by_role("row").filter(has=page.get_by_role("rowheader", name="Cairn disc 15"))
        expect(row).to_contain_text(re.compile(r"\d runs, \d+ to \d+ min"))
        row.get_by_role("link", name=re.compile(r"\d runs")).first.click()
        expect(self.row("Cairn disc 15, on Plug 18")).to_be_visible()

    def test_empty_cells_are_sent_to_a_plan(self):
        page = self.goto("/versus/table")
        page.get_by_label("plan Cairn disc 15 on Quill Lite").click()
        page.get_by_label("plan wired on Tarn 9").click()
        page.get_by_role("button", name="Plan 2 runs").click()
        expect(page.get_by_label("the question")).to_have_value(re.compile("What is missing: Cairn disc 15, wired on"))
        expect(page.get_by_text(re.compile(r"^2 runs\."))).to_be_visible()


class Empty(BrowserTest):
    def test_it_says_what_to_do_first(self):
        page = self.goto("/versus")
        expect(page.get_by_text("Two runs are needed to compare.")).to_be_visible()
        page.goto(self.address + "/versus/table")
        expect(page.get_by_text("No run names its phone and its charger yet")).to_be_visible()


class AuditOfVersus(Audit):
    def test_every_panel_in_both_themes(self):
        for page in self.in_both_themes():
            with self.subTest(page.locator("html").get_attribute("data-theme")):
                page.goto(self.address + "/versus")
                page.get_by_role("link", name="everything on Ostrel Max").click()
                for tab in (
                    "In words",
                    "Curves",
                    "What each thing does",
                    "Energy and price",
                    "A claim",
                    "Another phone",
                ):
                    page.get_by_role("tab", name=tab).click()
                    self.audit(tab)
                page.get_by_role("button", name="Add runs").click()
                expect(page.get_by_role("dialog").get_by_role("checkbox").first).to_be_visible()
                self.audit("runs to compare")
                page.goto(self.address + "/versus/table")
                expect(page.get_by_label("plan wired on Tarn 9")).to_be_visible()
                self.audit("phones and chargers")
