"""The shelf, the chain in hand and rehearsals, as a person uses them."""

import re

from playwright.sync_api import expect

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.formats.kit import kit_csv
from jaunecharge.store.kit import add_all
from tests.browser.base import Audit, BrowserTest

LINES = (
    "phone Ostrel Max 4620mAh mpp large", "phone Quill Lite 3840mAh bpp", "puck Cairn disc mpp claims 15W",
    "pad Moraine pad magnet-only claims 15W", "adapter Plug 20 20W", "adapter Old plug 5V1A", "cable Braided 3A",
)  # fmt: skip


class Empty(BrowserTest):
    def test_from_nothing_to_a_chain_by_keyboard_alone(self):
        page = self.goto("/runs")
        expect(page.get_by_text("to read your first run")).to_be_visible()
        page.keyboard.press("1")
        expect(page.get_by_text("Type what you own, one line each.")).to_be_visible()
        page.keyboard.press("/")
        field = page.get_by_label("add kit in one line")
        expect(field).to_be_focused()
        for line in LINES[:3]:
            page.keyboard.type(line)
            expect(page.get_by_role("status").filter(has_text=line.split()[1])).to_be_visible()
            page.keyboard.press("Enter")
            expect(field).to_have_value("")
        page.get_by_role("heading", name="Kit").click()
        page.keyboard.press("s")
        expect(page.get_by_text("is the narrowest link").first).to_be_visible()
        expect(page.get_by_role("button", name="Rehearse this chain")).to_be_enabled()


class ShelfTest(BrowserTest):
    def setUp(self):
        super().setUp()
        with self.database.session() as session:
            for table in ("kit", "runs"):
                session.connection().exec_driver_sql(f"DELETE FROM {table}")
            add_all(session, [kit_from_line(line) for line in LINES], "")

    def kit_rows(self, kind):
        return self.page.get_by_role("region", name=kind).get_by_role("listitem")


class Kit(ShelfTest):
    def test_a_line_that_is_not_understood_says_what_is_missing(self):
        page = self.goto("/shelf/kit")
        page.get_by_label("add kit in one line").fill("phone Tarn mpp")
        expect(page.get_by_text("How many mAh has its battery?")).to_be_visible()
        add = page.get_by_role("button", name="Add", exact=True)
        expect(add).to_have_attribute("aria-disabled", "true")
        add.click(force=True)
        expect(page.get_by_label("add kit in one line")).to_have_value("phone Tarn mpp")
        page.get_by_label("add kit in one line").fill("charger Moor disc 15W wireless $45")
        expect(page.get_by_text("15 W by which standard? Qi2 15W, or Qi 15W")).to_be_visible()
        expect(add).to_have_attribute("aria-disabled", "true")
        page.get_by_label("add kit in one line").fill("charger Moor disc 15W wireless $45 Qi2")
        expect(add).to_have_attribute("aria-disabled", "false")
        expect(page.get_by_text("45 USD")).to_be_visible()
        page.keyboard.press("Enter")
        row = self.kit_rows("chargers").filter(has_text="Moor disc")
        expect(row).to_contain_text("Qi2 15 W")

    def test_standards_are_ticked_by_name(self):
        page = self.goto("/shelf/kit")
        page.get_by_label("add kit by a form").select_option("charger")
        form = page.get_by_role("dialog", name="add a charger")
        form.get_by_label("label", exact=True).fill("Moor twin")
        form.get_by_label("Qi2 15 W", exact=True).check()
        form.get_by_label("watts at most by Qi2 15 W").fill("12")
        form.get_by_role("button", name="it charges in several places").click()
        form.get_by_label("name of place 1").fill("left")
        form.get_by_label("name of place 2").fill("watch")
        form.get_by_label("Qi 5 W", exact=True).nth(1).check()
        page.keyboard.press("Enter")
        expect(form).to_have_count(0)
        row = self.kit_rows("chargers").filter(has_text="Moor twin")
        expect(row).to_contain_text("left Qi2 12 W")
        expect(row).to_contain_text("watch Qi 5 W")

    def test_a_form_says_what_is_wrong_beside_the_field_and_keeps_what_was_typed(self):
        page = self.goto("/shelf/kit")
        page.get_by_label("add kit by a form").select_option("phone")
        form = page.get_by_role("dialog", name="add a phone")
        form.get_by_label("battery, mAh").fill("many")
        form.get_by_role("button", name="Add").click()
        expect(form.get_by_text("“many” is not a number")).to_be_visible()
        expect(form.get_by_label("label", exact=True)).to_be_focused()
        expect(form.get_by_label("battery, mAh")).to_have_value("many")
        expect(form.get_by_label("battery, mAh")).to_have_attribute("aria-invalid", "true")
        form.get_by_label("label", exact=True).fill("Fen 5")
        form.get_by_label("battery, mAh").fill("5000")
        form.get_by_label("Qi2 15 W", exact=True).check()
        page.keyboard.press("Enter")
        expect(form).to_have_count(0)
        expect(self.kit_rows("phones").filter(has_text="5,000 mAh")).to_have_count(1)

    def test_a_taken_label_is_said_beside_it(self):
        page = self.goto("/shelf/kit")
        page.get_by_title("change Braided").click()
        form = page.get_by_role("dialog", name="change Braided")
        form.get_by_label("label", exact=True).fill("PLUG 20")
        form.get_by_role("button", name="Save").click()
        expect(form.get_by_text("is the label of an adapter already")).to_be_visible()
        page.keyboard.press("Escape")
        expect(form).to_have_count(0)

    def test_retire_undo_and_bring_back(self):
        page = self.goto("/shelf/kit")
        page.get_by_role("button", name="delete Old plug").click()
        expect(self.kit_rows("adapters")).to_have_count(1)
        page.get_by_role("button", name="Undo").click()
        expect(self.kit_rows("adapters")).to_have_count(2)
        page.get_by_role("button", name="delete Old plug").click()
        page.get_by_text("deleted: 1").click()
        page.get_by_role("button", name="restore Old plug").click()
        expect(self.kit_rows("adapters")).to_have_count(2)

    def test_out_and_in_as_a_file(self):
        page = self.goto("/shelf/kit")
        with page.expect_download() as download:
            page.get_by_role("link", name="CSV").click()
        text = download.value.path().read_text()
        self.assertEqual(len(text.splitlines()), len(LINES) + 1)
        more = kit_csv([kit_from_line("cable New one 5A"), kit_from_line(LINES[0])])
        self.bring("shelf.csv", more)
        expect(page.get_by_text("1 piece added; 1 on the shelf already: Ostrel Max")).to_be_visible()
        self.bring("bad.csv", "kind,label\nlamp,x\n")
        expect(page.get_by_role("alert")).to_contain_text("bad.csv, row 2: “lamp” is not a kind of kit")

    def bring(self, name, text):
        file = {"name": name, "mimeType": "text/csv", "buffer": text.encode()}
        self.page.get_by_label("a shelf as JSON or CSV").set_input_files(file)

    def test_the_filter(self):
        page = self.goto("/shelf/kit")
        page.get_by_label("filter the kit").fill("magnets only")
        expect(page.get_by_role("listitem")).to_have_count(1)


class Chain(ShelfTest):
    def choose(self, slot, label):
        self.page.get_by_label(slot, exact=True).select_option(label=label)

    def test_the_narrowest_link_is_named_and_the_shelf_widens_it(self):
        page = self.goto("/shelf")
        self.choose("charger", "Moraine pad")
        self.choose("phone", "Ostrel Max")
        expect(page.get_by_text("5.8 to 7.5 W will arrive, not 15.")).to_be_visible()
        expect(page.get_by_role("img", name=re.compile("narrowest: charger"))).to_be_visible()
        expect(page.get_by_text("Cairn disc would lift this chain to 15 W")).to_contain_text("instead of")
        page.get_by_role("button", name="Use it").first.click()
        expect(page.get_by_label("charger", exact=True)).to_have_value(re.compile(".+"))
        expect(page.get_by_text("11.6 to 15 W will arrive.")).to_be_visible()
        self.choose("adapter", "Old plug")
        expect(page.get_by_text("It will hardly charge.")).to_be_visible()
        page.reload()
        expect(page.get_by_text("It will hardly charge.")).to_be_visible()

    def test_wired_is_the_baseline(self):
        page = self.goto("/shelf")
        self.choose("charger", "no charger: wired")
        expect(page.get_by_text("Wired: the usual baseline.")).to_be_visible()
        expect(page.get_by_role("img", name=re.compile("^adapter could pass"))).not_to_have_attribute(
            "aria-label", re.compile("coupling")
        )

    def test_a_figure_that_cannot_be_is_said_beside_its_field(self):
        page = self.goto("/shelf")
        page.get_by_label("from, %").fill("120")
        expect(page.get_by_text("0 to 99 %")).to_be_visible()
        expect(page.get_by_label("from, %")).to_have_value("120")
        page.get_by_label("from, %").fill("50")
        expect(page.get_by_text("0 to 99 %")).to_have_count(0)
        expect(page).to_have_url(re.compile("start=50"))

    def test_the_room_is_typed_in_the_unit_of_the_setting(self):
        page = self.goto("/shelf")
        page.get_by_role("button", name="switch °C and °F").click()
        page.get_by_label("room, °F").fill("95")
        expect(page).to_have_url(re.compile("room=35.00"))
        expect(page.get_by_text(re.compile("takes power from"))).to_be_visible()

    def test_what_the_forecast_rests_on(self):
        page = self.goto("/shelf")
        page.get_by_role("button", name="what this rests on").click()
        expect(page.get_by_text("preset, common practice").first).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_text("preset, common practice").first).to_be_hidden()

    def test_the_table_by_keyboard(self):
        page = self.goto("/shelf")
        first = page.get_by_role("button", name=re.compile("^Cairn disc with Ostrel Max"))
        expect(first).to_be_visible()
        first.focus()
        page.keyboard.press("ArrowDown")
        page.keyboard.press("ArrowRight")
        here = page.get_by_role("button", name=re.compile("^Moraine pad with Quill Lite"))
        expect(here).to_be_focused()
        expect(page.get_by_role("status").filter(has_text="narrowest")).to_contain_text("Moraine pad with Quill Lite")
        page.keyboard.press("Enter")
        expect(here).to_have_attribute("aria-pressed", "true")
        expect(page.get_by_label("charger", exact=True).locator("option:checked")).to_have_text("Moraine pad")
        expect(page.get_by_label("phone", exact=True).locator("option:checked")).to_have_text("Quill Lite")

    def test_the_filters_of_the_table(self):
        page = self.goto("/shelf")
        claims = page.get_by_role("button", name=re.compile("^Moraine pad with Ostrel Max"))
        expect(claims).not_to_have_class(re.compile("opacity-25"))
        page.get_by_label("show pairs").select_option("meets its claim")
        expect(claims).to_have_class(re.compile("opacity-25"))
        page.get_by_label("show pairs").select_option("misses its claim")
        expect(claims).not_to_have_class(re.compile("opacity-25"))
        self.choose("adapter", "Old plug")
        page.get_by_label("adapters of the table").select_option("one")
        page.get_by_label("show pairs").select_option("not worth testing")
        weak = page.get_by_role("button", name=re.compile("^Cairn disc with Ostrel Max.*not worth it"))
        weak.hover()
        expect(page.get_by_text("Not worth a run: does not charge")).to_be_visible()

    def test_a_pack_and_what_shares(self):
        with self.database.session() as session:
            more = ("pack Bank 10000mAh 3.7V mpp", 'charger Twin form:multi-stand pads:"left: mpp; right: bpp"',
                    "adapter Plug twin 30W ports:2 shared_w:30")  # fmt: skip
            add_all(session, [kit_from_line(line) for line in more], "")
        page = self.goto("/shelf")
        self.choose("charger", "Bank")
        expect(page.get_by_text("The pack feeds its own coil")).to_be_visible()
        self.choose("charger", "Twin")
        page.get_by_label("place on the charger").select_option("right")
        expect(page.get_by_text("3.9 to 5 W will arrive.")).to_be_visible()
        page.get_by_label("place on the charger").select_option("left")
        self.choose("adapter", "Plug twin")
        page.get_by_label("phones on the charger").fill("2")
        expect(page.get_by_text("shared by 2 phones").first).to_be_visible()
        page.get_by_label("chargers on the adapter").fill("2")
        expect(page.get_by_text("The adapter is shared")).to_be_visible()

    def test_a_shelf_that_another_window_changed_is_seen(self):
        page = self.goto("/shelf/kit")
        page.get_by_title("change Braided").click()
        form = page.get_by_role("dialog", name="change Braided")
        piece = next(k for k in self.web.get("/api/kit").json() if k["label"] == "Braided")
        changed = {"revision": 1, "fields": {**piece["fields"], "length_m": "2"}}
        self.web.put(f"/api/kit/{piece['id']}", json=changed).raise_for_status()
        form.get_by_label("carries, A").fill("5")
        form.get_by_role("button", name="Save").click()
        expect(form.get_by_role("alert")).to_contain_text("changed in another window")
        expect(form.get_by_label("carries, A")).to_have_value("5")


class WhereARunIsStated(ShelfTest):
    def test_the_shelf_is_offered_and_brings_the_claim(self):
        page = self.goto("/runs/read")
        field = page.get_by_label("charger", exact=True)
        expect(field).to_have_attribute("list", re.compile(".+"))
        offered = page.locator(f"datalist[id='{field.get_attribute('list')}'] option")
        expect(offered).to_have_count(2)
        field.fill("Cairn disc")
        expect(page.get_by_label("charger claims, W")).to_have_value("15")
        page.get_by_label("phone", exact=True).fill("Quill Lite")
        expect(page.get_by_label("battery, mAh")).to_have_value("3840")


class Rehearsals(ShelfTest):
    def test_a_rehearsal_is_marked_everywhere(self):
        page = self.goto("/shelf")
        expect(page.get_by_text("is the narrowest link").first).to_be_visible()
        page.keyboard.press("r")
        expect(page).to_have_url(re.compile("/runs/[0-9a-f-]{36}$"))
        expect(page.get_by_text("simulated", exact=True)).to_be_visible()
        expect(page.get_by_text("Simulated: no phone was charged.")).to_be_visible()
        expect(page.get_by_role("img", name=re.compile("^simulated ribbon of"))).to_be_visible()
        expect(page.get_by_text("What it was simulated from, seed")).to_be_visible()
        page.keyboard.press("4")
        page.get_by_role("link", name="Simulated").click()
        row = page.get_by_role("list", name="runs").get_by_role("listitem").first
        expect(row).to_contain_text("simulated")
        expect(row.get_by_role("img", name=re.compile("^simulated, "))).to_be_visible()


class Fits(BrowserTest):
    with_demo = True

    def test_a_phone_is_fitted_looked_at_kept_and_put_back(self):
        page = self.goto("/shelf/kit")
        page.get_by_role("button", name="fit to a run: Ostrel Max").click()
        dialog = page.get_by_role("dialog", name="fit Ostrel Max to a run")
        dialog.get_by_label("measured run").select_option(label="Ostrel Max on Serac dock 15, still air")
        dialog.get_by_role("button", name="Try").click()
        expect(dialog.get_by_text("The fitted phone misses the run by")).to_be_visible()
        dialog.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("fitted to “Ostrel Max on Serac dock 15”")).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_text("fitted to “Ostrel Max on Serac dock 15”")).to_have_count(0)


class AuditOfTheShelf(Audit):
    def test_every_screen_in_both_themes(self):
        for page in self.in_both_themes():
            with self.subTest(page.locator("html").get_attribute("data-theme")):
                self.goto("/shelf?room=33")
                expect(page.get_by_role("button", name=re.compile("^Cairn disc 15 with"))).to_have_count(5)
                self.audit("shelf")
                page.get_by_role("button", name="what this rests on").click()
                self.audit("what a forecast rests on")
                self.goto("/shelf/kit")
                expect(page.get_by_text("4,620 mAh").first).to_be_visible()
                self.audit("kit")
                page.get_by_label("add kit by a form").select_option("charger")
                page.get_by_role("dialog").get_by_role("button", name="Add").click()
                expect(page.get_by_text("Which standard does it use?")).to_be_visible()
                self.audit("form with flaws")
