"""Packs in the browser: from the shelf to a verdict; a charge with lamps; both themes; by keyboard."""

import re

from playwright.sync_api import expect

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store.kit import add_all
from tests.api.test_packs import LINES, LOAD
from tests.browser.base import Audit, BrowserTest


class Packs(BrowserTest):
    def setUp(self):
        super().setUp()
        with self.database.session() as session:
            for table in ("pack_tests", "kit"):
                session.connection().exec_driver_sql(f"DELETE FROM {table}")

    def put(self, *lines):
        with self.database.session() as session:
            add_all(session, [kit_from_line(line) for line in lines], "")

    def test_from_the_shelf_to_a_verdict(self):
        page = self.goto("/packs")
        expect(page.get_by_text("No pack stands on the shelf yet")).to_be_visible()
        self.put(*LINES)
        page.reload()
        row = page.get_by_role("row", name=re.compile("Col bank"))
        expect(row).to_contain_text("not tested yet")
        expect(page.get_by_text("Drop the log of a load test here")).to_be_visible()
        self.drop("main table", "load.csv", LOAD)
        expect(page.get_by_text("A load test of Col bank is kept.")).to_be_visible()
        expect(page.get_by_text(re.compile(r"Cut off after 2\sh 00 under load"))).to_be_visible()
        expect(row).to_contain_text("71 %")
        expect(page.get_by_role("img", name=re.compile("^volts under load: 5.05 V at 1.00 A"))).to_be_visible()
        expect(
            page.get_by_role("img", name=re.compile("^energy of Col bank: rated 37.0 Wh, printed; out by cord 26"))
        ).to_be_visible()
        page.get_by_role("button", name=re.compile("^delete: load test")).click()
        expect(row).to_contain_text("not tested yet")
        page.get_by_role("button", name="Undo").click()
        expect(row).to_contain_text("71 %")

    def test_a_charge_with_lamps_by_keyboard_alone(self):
        self.put(*LINES)
        page = self.goto("/runs")
        expect(page.get_by_role("link", name=re.compile("^Packs"))).to_be_visible()
        page.keyboard.press("6")
        expect(page.get_by_role("heading", name="Packs", exact=True)).to_be_visible()
        button = page.get_by_role("button", name="Charge a phone from it")
        expect(button).to_be_enabled()
        button.focus()
        page.keyboard.press("Enter")
        form = page.get_by_role("form", name="a phone charged from it")
        expect(form.get_by_label("phone", exact=True)).to_be_focused()
        expect(form.get_by_role("option", name="Ostrel Max")).to_be_attached()
        page.keyboard.type("Ostrel")
        expect(form.get_by_label("phone", exact=True)).to_have_value("Ostrel Max")
        for text in ("100", "2 lamps", "5", "60"):
            page.keyboard.press("Tab")
            page.keyboard.type(text)
        expect(form.get_by_label("phone after, %")).to_have_value("60")
        page.keyboard.press("Enter")
        expect(page.get_by_text("The charge from Col bank is kept.")).to_be_visible()
        row = page.get_by_role("row", name=re.compile("Col bank"))
        expect(row).to_contain_text("0.72 to 1.12")
        expect(row).to_contain_text("Ostrel Max by coil")
        expect(
            page.get_by_text(re.compile(r"Ostrel Max by coil: 5\s% to 60\s%, the pack from 100\s% to 2 of 4 lamps"))
        ).to_be_visible()

    def test_a_level_that_cannot_be_is_refused_in_the_form(self):
        self.put(*LINES)
        page = self.goto("/packs")
        page.get_by_role("button", name="Charge a phone from it").click()
        form = page.get_by_role("form", name="a phone charged from it")
        form.get_by_label("phone", exact=True).select_option("Ostrel Max")
        for name, text in (
            ("pack before", "20"),
            ("pack after", "70"),
            ("phone before, %", "5"),
            ("phone after, %", "60"),
        ):
            form.get_by_label(name).fill(text)
        form.get_by_role("button", name="Keep the charge").click()
        expect(form.get_by_role("alert")).to_contain_text("went up from 20 % to 70 %")
        page.keyboard.press("Escape")
        expect(form).to_have_count(0)


class Accessible(Audit):
    def test_packs_in_both_themes(self):
        for page in self.in_both_themes():
            page.goto(f"{self.address}/packs")
            page.get_by_role("button", name="Moraine trail 27", exact=True).click()
            page.get_by_role("button", name=re.compile("^Load test: at least")).click()
            expect(page.get_by_text(re.compile(r"let go at 4.40\sA"))).to_be_visible()
            self.audit("packs")
            page.get_by_role("button", name="Charge a phone from it").click()
            expect(page.get_by_role("form", name="a phone charged from it")).to_be_visible()
            self.audit("a charge")
