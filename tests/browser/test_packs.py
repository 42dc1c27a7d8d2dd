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

    def row(self, page, name="Col bank"):
        return page.get_by_role("table", name="packs").get_by_role("row", name=re.compile(name))

    def test_from_the_shelf_to_a_verdict(self):
        page = self.goto("/packs")
        expect(page.get_by_text("No pack stands on the shelf yet")).to_be_visible()
        self.put(*LINES)
        page.reload()
        row = self.row(page)
        expect(row).to_contain_text("not tested yet")
        expect(row).to_contain_text("from its rating")
        expect(page.get_by_text("Drop the log of a load test here")).to_be_visible()
        self.drop("main table", "load.csv", LOAD)
        expect(page.get_by_text("A load test of Col bank is kept.")).to_be_visible()
        expect(page.get_by_text(re.compile(r"Cut off after 2\sh 00 under load"))).to_be_visible()
        expect(row).to_contain_text("71 %")
        expect(row).to_contain_text("from its load test")
        expect(page.get_by_role("img", name=re.compile("^volts under load: 5.05 V at 1.00 A"))).to_be_visible()
        expect(
            page.get_by_role("img", name=re.compile("^energy of Col bank: rated 37.0 Wh, printed; out by cord 26"))
        ).to_be_visible()
        page.get_by_role("button", name="rated energy: how is this worked out?").first.click()
        expect(page.get_by_text("rated mAh × volts of the cells ÷ 1000").first).to_be_visible()
        page.get_by_label("a load, W").fill("5")
        expect(page.get_by_text(re.compile(r"Feeds 5\sW for 5\sh 1\d \(as measured"))).to_be_visible()
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
        button = page.get_by_role("button", name="Charge a phone from it", exact=True)
        expect(button).to_be_enabled()
        button.focus()
        page.keyboard.press("Enter")
        form = page.get_by_role("form", name="A phone charged from Col bank")
        expect(form.get_by_label("phone", exact=True)).to_be_focused()
        expect(form.get_by_role("option", name="Ostrel Max")).to_be_attached()
        page.keyboard.type("Ostrel")
        expect(form.get_by_label("phone", exact=True)).to_have_value("Ostrel Max")
        for text in ("100", "2 lamps", "5", "60"):
            page.keyboard.press("Tab")
            page.keyboard.type(text)
        expect(form.get_by_label("phone after, %")).to_have_value("60")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Kept: Ostrel Max by coil")).to_be_visible()
        row = self.row(page)
        expect(row).to_contain_text("0.72 to 1.12")
        expect(row).to_contain_text("by coil, measured")
        expect(
            page.get_by_role(
                "button", name=re.compile(r"^Ostrel Max by coil: 5\s% to 60\s%, the pack from 100\s% to 2")
            )
        ).to_be_visible()

    def test_what_cannot_be_is_refused_and_what_was_typed_stays(self):
        self.put(*LINES)
        page = self.goto("/packs")
        page.get_by_role("button", name="Charge a phone from it", exact=True).click()
        form = page.get_by_role("form", name="A phone charged from Col bank")
        form.get_by_label("phone", exact=True).select_option("Ostrel Max")
        for name, text in (
            ("pack before", "20"),
            ("pack after", "70"),
            ("phone before, %", "5"),
            ("phone after, %", "sixty"),
        ):
            form.get_by_label(name).fill(text)
        form.get_by_role("button", name="Keep it").click()
        expect(form.get_by_role("alert")).to_contain_text("“sixty” under “phone after, %” is no figure")
        form.get_by_label("phone after, %").fill("60")
        form.get_by_role("button", name="Keep it").click()
        expect(form.get_by_role("alert")).to_contain_text("went up from 20 % to 70 %")
        page.keyboard.press("Escape")
        expect(form).to_have_count(0)
        page.reload()
        page.get_by_role("button", name="Charge a phone from it", exact=True).click()
        expect(form.get_by_label("pack after")).to_have_value("70")
        form.get_by_label("pack after").fill("7")
        form.get_by_role("button", name="Keep it").click()
        expect(page.get_by_text("Kept: Ostrel Max by coil")).to_be_visible()
        page.get_by_role("button", name="Charge a phone from it", exact=True).click()
        expect(form.get_by_label("pack after")).to_have_value("")

    def test_a_load_test_off_a_display(self):
        self.put(*LINES)
        page = self.goto("/packs")
        page.get_by_role("button", name="Moraine trail", exact=True).click()
        page.get_by_role("button", name="Load test", exact=True).click()
        form = page.get_by_role("form", name="Load test of Moraine trail")
        form.get_by_label("loads and their volts").fill("0 A 20.1 V, 2 A 19.9 V, 4.1 A 19.65 V")
        form.get_by_label("let go at, A").fill("4,4")
        form.get_by_label("it came back").select_option("by its button")
        form.get_by_role("button", name="More fields").click()
        form.get_by_label("the load is certified").select_option("no")
        form.get_by_role("button", name="Keep it").click()
        expect(page.get_by_text(re.compile(r"let go at 4.40\sA; it came back by its button"))).to_be_visible()
        expect(self.row(page, "Moraine trail")).to_contain_text("lets go above 4.1")
        expect(page.get_by_text("The load is not certified")).to_be_visible()
        page.get_by_role("button", name="source resistance: how is this worked out?").click()
        expect(page.get_by_text("slope of volts over amps")).to_be_visible()

    def test_a_phone_that_gives_and_a_table_of_charges(self):
        self.put(*LINES, "phone Tarn 9 4360mAh epp gives_w:4.5 gives_stop_percent:30")
        page = self.goto("/packs")
        page.get_by_role("button", name="Charge a phone from Tarn 9").click()
        form = page.get_by_role("form", name="A phone charged from Tarn 9")
        form.get_by_label("the phone that takes").select_option("Ostrel Max")
        form.get_by_label("minutes, giver %, taker %").fill("0 84 12\n30 71 23\n1:00 58 34")
        form.get_by_role("button", name="Keep it").click()
        expect(page.get_by_text(re.compile("Kept: gave Ostrel Max: 12"))).to_be_visible()
        table = "pack,phone,pack before,pack after,phone before,phone after,way\n"
        table += "Col bank,Ostrel Max,100,27,5,100,coil\nnobody,Ostrel Max,100,27,5,100,coil\n"
        self.drop("main table", "charges.csv", table)
        expect(page.get_by_text("1 charge kept. 1 row left out.")).to_be_visible()
        expect(page.get_by_text("row 3: ")).to_be_visible()
        page.get_by_role("link", name="Charges of every phone").click()
        cells = page.get_by_role("table", name="full charges of every phone")
        expect(cells.get_by_role("row", name=re.compile("Col bank"))).to_contain_text("from another phone")
        expect(cells.get_by_role("row", name=re.compile("Col bank"))).to_contain_text("1.30")

    def test_a_plan_of_their_tests(self):
        self.put(*LINES)
        with self.database.session() as session:
            session.connection().exec_driver_sql("DELETE FROM pack_plans")
        page = self.goto("/packs")
        page.get_by_role("link", name="Plan of their tests").click()
        expect(page.get_by_role("button", name="Make the plan")).to_be_disabled()
        page.get_by_label("Col bank: Full to empty at one load").check()
        page.get_by_label("Moraine trail: Load in steps").check()
        page.get_by_label("from", exact=True).fill("2027-03-01T08:00")
        page.get_by_role("button", name="Make the plan").click()
        table = page.get_by_role("table", name="plan of pack tests")
        row = table.get_by_role("row", name=re.compile("Col bank"))
        expect(row).to_contain_text("stay by it: never tested")
        expect(page.get_by_text("0 of 2 made")).to_be_visible()
        row.get_by_role("link", name="Set up its lane").click()
        expect(page.get_by_label("a pack under load")).to_be_checked()
        expect(page.get_by_label("pack", exact=True)).to_have_value("Col bank")
        self.goto("/packs")
        expect(self.row(page)).to_contain_text("not tested yet")
        self.drop("main table", "load.csv", LOAD)
        expect(page.get_by_text("A load test of Col bank is kept.")).to_be_visible()
        page.get_by_role("link", name="Plan of their tests").click()
        expect(page.get_by_text("1 of 2 made")).to_be_visible()
        expect(row).to_contain_text("made")
        page.get_by_role("button", name="Delete this plan").click()
        expect(page.get_by_role("button", name="Make the plan")).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_text("1 of 2 made")).to_be_visible()


class Accessible(Audit):
    def test_packs_in_both_themes(self):
        for page in self.in_both_themes():
            page.goto(f"{self.address}/packs")
            page.get_by_role("button", name="Moraine trail 27", exact=True).click()
            page.get_by_role("button", name=re.compile("^Load test: at least")).click()
            expect(page.get_by_text(re.compile(r"let go at 4.40\sA")).first).to_be_visible()
            self.audit("packs")
            page.get_by_role("button", name="Load test", exact=True).click()
            page.get_by_role("button", name="More fields").click()
            expect(page.get_by_role("form", name="Load test of Moraine trail 27")).to_be_visible()
            self.audit("a load test")
            page.goto(f"{self.address}/packs/charges")
            expect(page.get_by_role("row", name=re.compile("Scree bank 5"))).to_be_visible()
            self.audit("charges of every phone")
            page.goto(f"{self.address}/packs/plan")
            expect(page.get_by_role("button", name="Make the plan")).to_be_visible()
            self.audit("plan of pack tests")
