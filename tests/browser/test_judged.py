"""The judgement in the real interface: sentences and their stretches, overruling, the reference, heat across runs."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTest

HEATED = "heat cost"


class Judged(BrowserTest):
    with_demo = True

    def open(self, text=HEATED):
        page = self.goto("/runs")
        page.get_by_label("filter the runs").fill(text)
        page.get_by_role("listitem").first.get_by_role("link").click()
        expect(page.get_by_role("img", name="power over time").locator("canvas")).to_be_visible()
        return page

    def says(self):
        return self.page.get_by_label("what this run says")

    def test_heat_is_said_first_and_lights_up_each_of_its_dips(self):
        page = self.open()
        sentence = self.says().get_by_role("button", name="Heat slowed it")
        expect(sentence).to_be_visible()
        canvas = page.get_by_role("img", name="power over time").locator("canvas")
        before = canvas.screenshot()
        sentence.click()
        self.assertNotEqual(canvas.screenshot(), before)
        sentence.locator("xpath=..").get_by_role("button", name="how is this worked out?").click()
        row = page.get_by_label("figures").locator("tbody").filter(has_text="first throttle after")
        expect(row).to_contain_text("under 85 % of what was expected")

    def test_phases_stand_over_the_curves_and_can_be_chosen(self):
        page = self.open()
        strip = page.get_by_role("group", name="phases")
        strip.get_by_role("button", name=re.compile("^taper")).click()
        chosen = page.get_by_role("region", name="phases").get_by_role("button", name="taper")
        expect(chosen).to_have_attribute("aria-pressed", "true")

    def test_a_cause_is_overruled_shown_and_undone(self):
        page = self.open()
        dips = page.get_by_role("region", name="dips")
        # Alike ones are one row until each is asked for.
        expect(dips.locator("tbody")).to_have_count(1)
        expect(dips.locator("tbody")).to_contain_text(re.compile(r"heat, \d+ times"))
        dips.get_by_role("button", name="show each").click()
        number = dips.get_by_role("button", name="change", exact=True).count()
        dips.get_by_role("button", name="change", exact=True).first.click()
        form = page.get_by_role("form", name="change the cause")
        form.get_by_label("it was").select_option("contact")
        form.get_by_label("because").fill("a guest lifted it")
        form.get_by_role("button", name="Apply").click()
        expect(dips.locator("tbody").first).to_contain_text("contact lost (read as heat")
        expect(dips).to_contain_text("a guest lifted it")
        expect(self.says()).to_contain_text("Lost contact once")
        expect(self.says()).to_contain_text("1 change made by hand")
        page.get_by_role("status").get_by_role("button", name="Undo").click()
        expect(dips.locator("tbody").first).to_contain_text("heat")
        expect(self.says().get_by_text("Lost contact")).to_have_count(0)
        expect(dips.get_by_role("button", name="change", exact=True)).to_have_count(number)
        dips.get_by_role("button", name="let it count again").click()
        expect(self.says()).to_contain_text("Lost contact once")
        dips.get_by_role("button", name="undo").click()
        expect(self.says().get_by_text("Lost contact")).to_have_count(0)

    def test_a_dip_is_added_and_one_that_cannot_be_is_refused_beside_the_form(self):
        page = self.open("Larch twin stand")
        page.get_by_role("button", name="add one").click()
        form = page.get_by_role("form", name="change the cause")
        form.get_by_label("from").fill("30")
        form.get_by_label(re.compile("^to")).fill("20")
        form.get_by_role("button", name="Apply").click()
        expect(form.get_by_role("alert")).to_contain_text("a dip ends after it begins")
        form.get_by_label(re.compile("^to")).fill("31,5")
        form.get_by_role("button", name="Apply").click()
        dips = page.get_by_role("region", name="dips")
        expect(dips).to_contain_text("not read as a dip; added")
        dips.get_by_role("button", name="undo").click()
        expect(dips).to_contain_text("No dips found.")

    def test_the_beginning_of_a_phase_is_moved(self):
        page = self.open("Larch twin stand")
        phases = page.get_by_role("region", name="phases")
        row = phases.locator("tbody").filter(has_text="taper")
        row.get_by_role("button", name="move").click()
        page.get_by_label("begins at").fill("130")
        page.get_by_role("button", name="Apply").click()
        expect(row).to_contain_text("2 h 10")
        expect(row).to_contain_text("read as beginning at")
        page.get_by_role("region", name="dips").get_by_role("button", name="undo").click()
        expect(row).not_to_contain_text("2 h 10")

    def test_a_run_becomes_the_reference_and_no_longer(self):
        page = self.open("Larch twin stand")
        output = page.get_by_role("region", name="output")
        expect(output).to_contain_text("k = 1.250 ± 0.120 (common practice)")
        output.get_by_role("button", name="take this run as reference").click()
        output.get_by_label("its chain is known to deliver").fill("10")
        output.get_by_role("button", name="Use its k for all runs").click()
        expect(output).to_contain_text("this run is the reference")
        expect(output).not_to_contain_text("1.250")
        output.get_by_role("button", name=re.compile("take the usual k again")).click()
        expect(output).to_contain_text("k = 1.250 ± 0.120 (common practice)")

    def test_tariff_and_habits_are_changed_and_undone(self):
        page = self.open("Larch twin stand")
        year = page.get_by_label("figures").locator("tbody").filter(has_text="EUR")
        expect(year).to_have_count(1)
        page.get_by_role("button", name="change", exact=True).click()
        form = page.get_by_role("form", name="habits and tariff")
        form.get_by_label("a kWh costs").fill("0,45")
        form.get_by_label("in", exact=True).fill("CHF")
        form.get_by_role("button", name="Apply").click()
        expect(page.get_by_text("0.45 CHF/kWh").first).to_be_visible()
        page.get_by_role("status").get_by_role("button", name="Undo").click()
        expect(year).to_have_count(1)

    def test_heat_across_runs_is_one_table_to_sort_and_filter(self):
        page = self.goto("/runs")
        expect(page.get_by_role("listitem").first).to_be_visible()
        page.keyboard.press("h")
        table = page.get_by_role("table")
        expect(table.get_by_role("row").nth(1)).to_contain_text("Quill Lite")
        page.get_by_role("button", name="hottest").click()
        expect(table.get_by_role("row").nth(1)).to_contain_text("Ostrel Mini")
        expect(table).to_contain_text("differs:")
        page.get_by_label("same conditions only").check()
        expect(table).not_to_contain_text("differs:")
        page.keyboard.press("f")
        page.keyboard.type("zzz")
        expect(page.get_by_text("No run matches")).to_be_visible()
        page.keyboard.press("Escape")
        table.get_by_role("link").first.click()
        expect(page).to_have_url(re.compile("/runs/[0-9a-f-]{36}"))
