"""The runs, reading a file and a run read, as a person at the bench uses them, in Debian's Chromium."""

import gzip
import re

from playwright.sync_api import expect

from jaunecharge.store.runs.runs import list_runs
from tests.browser.base import Audit, BrowserTest
from tests.cases import DATA

METER = "time_s,volts,amps\n" + "".join(f"{t},9.0,{1.5 if t >= 60 else 0.05}\n" for t in range(4000))


class FirstRun(BrowserTest):
    def test_an_empty_store_says_what_to_do_first(self):
        page = self.goto("/")
        expect(page.get_by_text("Drop what you have here to read your first run.")).to_be_visible()
        expect(page.get_by_role("navigation").get_by_role("link")).to_have_count(7)


class ReadingFiles(BrowserTest):
    def test_a_log_is_dropped_on_the_runs_shown_and_read(self):
        page = self.goto("/runs")
        expect(page.get_by_role("heading", name="Runs")).to_be_visible()
        meter = gzip.decompress((DATA / "logs/continental-file/meter.csv.gz").read_bytes())
        self.drop("[data-testid=runs]", "continental.csv", meter)
        card = page.get_by_test_id("file")
        expect(card).to_contain_text("semicolons, decimal comma")
        expect(card.get_by_label("what “Strom [mA]” is")).to_have_value("amps")
        expect(card.get_by_label("unit of “Strom [mA]”")).to_have_value("mA")
        expect(card.get_by_label("form of time")).to_have_value("h:mm:ss")
        expect(card).to_contain_text("8,991")
        self.drop("[data-testid=read]", "battery.csv", (DATA / "logs/continental-file/battery.csv").read_bytes())
        expect(page.get_by_test_id("file").nth(1)).to_contain_text("check-ins")
        page.get_by_label("battery, mAh").fill("4400")
        page.get_by_label("at, V").fill("3,87")
        self.read_run()
        expect(self.says()).to_contain_text("80 % after 1 h 3")
        expect(self.says()).to_contain_text("reached the battery: 59 ± 6 %")

    def test_check_ins_are_pasted_from_a_spreadsheet(self):
        page = self.goto("/runs/read")
        self.choose("meter.csv", METER)
        box = page.get_by_role("textbox", name="Battery percentages")
        box.focus()
        page.evaluate("text => document.execCommand('insertText', false, text)", "min\t%\n0\t10\n30\t45\n60\t81\n")
        expect(page.get_by_text("3 check-ins, 10 to 81 % in 1 h 00")).to_be_visible()
        self.read_run()
        expect(self.says()).to_contain_text("80 % after")
        expect(page.get_by_text("Battery capacity and voltage are not stated")).to_be_visible()

    def test_a_pasted_table_is_a_run_without_a_meter_by_keyboard_alone(self):
        page = self.goto("/runs/read")
        expect(page.get_by_label("files to read")).to_be_focused()
        page.keyboard.press("Tab")
        page.keyboard.press("Tab")
        expect(page.get_by_role("textbox", name="Battery percentages")).to_be_focused()
        table = "min\t%\n0\t10\n10\t21\n20\t32\n30\t43\n40\t49\n50\t55\n60\t61\n70\t61\n"
        page.evaluate("text => document.execCommand('insertText', false, text)", table)
        expect(page.get_by_text("Ready, without a meter")).to_contain_text("A meter log would add watts")
        page.get_by_role("button", name="Read the run").focus()
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("/runs/[0-9a-f-]{36}$"))
        expect(self.says()).to_contain_text("Charges at 1.10 points a minute up to 43 %")
        expect(self.says()).to_contain_text("Slows to 0.6")
        expect(self.says()).to_contain_text("why cannot be told without a meter")
        page.get_by_role("slider", name="moment of the run").focus()
        page.keyboard.press("ArrowRight")
        expect(page.get_by_role("slider", name="moment of the run")).to_have_attribute(
            "aria-valuetext", re.compile(r"1\.10 points/min")
        )

    def test_a_wide_sheet_becomes_twelve_runs_by_keyboard_alone(self):
        page = self.goto("/runs/read")
        names = [f"Puck {n}" for n in range(1, 13)]
        rows = ["\t".join(["min", *names])]
        rows += [
            "\t".join([str(m), *(str(min(100, 5 + m * (n + 4) // 12)) for n in range(12))]) for m in range(0, 200, 10)
        ]
        page.get_by_label("a table, pasted or typed").focus()
        page.evaluate("text => document.execCommand('insertText', false, text)", "\n".join(rows))
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        expect(page.get_by_text("12 runs are in it.")).to_be_visible()
        expect(page.get_by_text("holds 12 runs: see and store them, or remove it")).to_be_visible()
        page.get_by_role("link", name="See and store them").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="12 runs in pasted table.tsv")).to_be_visible()
        page.get_by_label("take run 12").focus()
        page.keyboard.press("Space")
        page.get_by_label("name of run 1", exact=True).fill("The first puck")
        page.get_by_role("button", name="Store 11 runs").focus()
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("/versus"))
        page = self.goto("/runs")
        expect(page.get_by_role("listitem").filter(has_text="The first puck")).to_have_count(1)
        expect(page.get_by_role("listitem").filter(has_text="Puck 12")).to_have_count(0)

    def test_a_log_of_two_phones_is_split_or_joined(self):
        page = self.goto("/runs/read")
        pieces = [(120, 0.05), (6000, 1.6), (2000, 0.3), (240, 0.05), (6000, 1.0), (300, 0.05)]
        amps = [a for seconds, a in pieces for _ in range(0, seconds, 2)]
        self.choose("afternoon.csv", "time_s,volts,amps\n" + "".join(f"{2 * i},9.0,{a}\n" for i, a in enumerate(amps)))
        page.get_by_role("link", name="See and store them").click()
        expect(page.get_by_role("heading", name="2 runs in afternoon.csv")).to_be_visible()
        expect(page.get_by_role("button", name="Store 2 runs")).to_be_visible()
        page.get_by_label("join with the one above").check()
        expect(page.get_by_text("goes on with the one above")).to_be_visible()
        expect(page.get_by_role("button", name="Store the run")).to_be_visible()
        page.get_by_label("join with the one above").uncheck()
        page.get_by_label("charger of run 2").fill("Gully puck 10")
        page.get_by_role("button", name="Store 2 runs").click()
        expect(page).to_have_url(re.compile("/versus"))
        page = self.goto("/runs")
        expect(page.get_by_role("listitem").filter(has_text="Gully puck 10")).to_have_count(1)

    def test_a_wrong_column_is_put_right(self):
        page = self.goto("/runs/read")
        self.choose("odd.csv", METER.replace("volts,amps", "x,y"))
        expect(page.get_by_role("alert")).to_contain_text("no column looks like volts")
        expect(page.get_by_role("button", name="Read the run")).to_be_disabled()
        page.get_by_label("what “x” is").select_option("volts")
        expect(page.get_by_role("alert")).to_contain_text("volts but no amps")
        page.get_by_label("what “y” is").select_option("amps")
        expect(page.get_by_role("alert")).to_have_count(0)
        page.get_by_label("unit of “y”").select_option("mA")
        expect(page.get_by_label("unit of “y”")).to_have_value("mA")
        page.get_by_label("unit of “y”").select_option("A")
        expect(page.get_by_text("Ready")).to_be_visible()
        self.read_run()
        expect(self.says()).to_contain_text("Draws 13.5 W")

    def test_what_was_put_right_is_offered_when_such_a_file_comes_again(self):
        odd = METER.replace("volts,amps", "first,second")
        page = self.goto("/runs/read")
        self.choose("odd.csv", odd)
        page.get_by_label("what “first” is").select_option("volts")
        page.get_by_label("what “second” is").select_option("amps")
        page.get_by_label("name for the corrections of odd.csv").fill("Kitchen meter")
        page.get_by_role("button", name="Keep this").click()
        expect(page.get_by_text("Kept as “Kitchen meter”")).to_be_visible()
        page = self.goto("/runs/read")
        self.choose("odd again.csv", odd)
        expect(page.get_by_text("was corrected before, as “Kitchen meter”")).to_be_visible()
        page.get_by_role("button", name="Do the same here").click()
        expect(page.get_by_label("what “second” is")).to_have_value("amps")
        expect(page.get_by_text("Ready")).to_be_visible()

    def test_what_is_refused_is_said_beside_the_file_and_nothing_is_stored(self):
        before = self.rows()
        page = self.goto("/runs/read")
        self.choose("empty.csv", "")
        expect(page.get_by_role("alert")).to_contain_text(
            "empty.csv: the file is empty; export it from the meter again"
        )
        self.choose("high.csv", METER.replace("57,9.0", "57,1000"))
        expect(page.get_by_test_id("file")).to_have_count(2)
        page.get_by_role("button", name="Read the run").click()
        expect(page.get_by_text("high.csv, row 59: 1000 V is more than a USB supply gives")).to_be_visible()
        self.assertEqual(self.rows(), before)

    def test_what_was_typed_stays_when_a_line_is_wrong(self):
        page = self.goto("/runs/read")
        self.choose("meter.csv", METER)
        box = page.get_by_role("textbox", name="Battery percentages")
        box.fill("0 10\n30 140")
        expect(page.get_by_text("check-ins, row 2: 140 % is not a battery level")).to_be_visible()
        expect(page.get_by_role("button", name="Read the run")).to_be_disabled()
        expect(box).to_have_value("0 10\n30 140")
        box.fill("0 10\n30 40")
        expect(page.get_by_text("2 check-ins")).to_be_visible()
        expect(page.get_by_role("button", name="Read the run")).to_be_enabled()

    LATE = "time_s,volts,amps\n" + "".join(f"{t},9.0,{1.51 if t >= 900 else 0.05}\n" for t in range(0, 6000, 2))

    def test_whose_clock_a_file_is_on_is_guessed_or_asked(self):
        page = self.goto("/runs/read")
        self.choose("meter.csv", self.LATE)
        self.choose("battery.csv", "min,percent\n0,10\n20,30\n60,70\n")
        guess = page.get_by_role("radiogroup", name="what its times count from")
        expect(guess).to_contain_text("guessed: on the log's clock the first would lie 15 min before the placing")
        expect(guess.get_by_label("the placing of the phone")).to_be_checked()
        self.choose("heat.csv", "min,back °C\n25,30\n40,36\n")
        expect(page.get_by_text("What do the times of heat.csv count from?")).to_be_visible()
        expect(page.get_by_role("button", name="Read the run")).to_be_disabled()
        page.get_by_role("radiogroup", name="what its times count from").nth(1).get_by_label(
            "the placing of the phone"
        ).check()
        self.read_run()
        expect(self.says()).to_contain_text("Hottest reading 36.0 °C")
        # They were the meter's after all: they are moved, and back.
        page.get_by_role("button", name="Correct").click()
        fields = page.get_by_role("group", name="put on another clock")
        fields.get_by_label("what is moved").select_option("temperatures")
        fields.get_by_label("by how much, minutes").fill("-0:15")
        fields.get_by_role("button", name="Move").click()
        status = page.get_by_role("status")
        expect(status.filter(has_text="Temperatures moved by -15 min.")).to_be_visible()
        expect(page.get_by_label("where it comes from")).to_contain_text("-15 min")
        status.get_by_role("button", name="Undo").click()
        expect(page.get_by_label("where it comes from")).to_contain_text("+15 min")

    def test_temperatures_are_typed_with_their_unit_and_place(self):
        page = self.goto("/runs/read")
        self.choose("meter.csv", METER.replace("9.0", "9.01"))
        box = page.get_by_role("textbox", name="Temperatures")
        box.fill("10 98.4f\n20 36.9\n30 41.2c thermal camera max")
        expect(page.get_by_text("3 temperatures, back, thermal camera max, up to 41.2 °C")).to_be_visible()
        box.fill("10 98.4f\n20 warm")
        expect(page.get_by_text("“20 warm” is not a temperature")).to_be_visible()
        expect(page.get_by_role("button", name="Read the run")).to_be_disabled()
        box.fill("10 98.4f\n20 36.5")
        expect(page.get_by_text("2 temperatures")).to_be_visible()
        self.read_run()
        expect(self.says()).to_contain_text("Hottest reading 36.9 °C")

    def test_by_keyboard_alone(self):
        # Choosers are caught only once somebody listens: from the start, lest the first key comes too soon.
        self.page.on("filechooser", lambda chooser: None)
        page = self.goto("/runs")
        expect(page.get_by_role("heading", name="Runs")).to_be_visible()
        page.keyboard.press("n")
        expect(page.get_by_label("files to read")).to_be_focused()
        with page.expect_file_chooser() as chooser:
            page.keyboard.press("Enter")
        path = self.folder / "keys.csv"
        path.write_text(METER)
        chooser.value.set_files(path)
        expect(page.get_by_test_id("file")).to_contain_text("keys.csv")
        page.get_by_label("files to read").focus()
        page.keyboard.press("Tab")
        page.keyboard.press("Tab")
        expect(page.get_by_role("textbox", name="Battery percentages")).to_be_focused()
        page.keyboard.type("0 10\n20 30\n0:40 52\n60 70")
        expect(page.get_by_text("4 check-ins")).to_be_visible()
        # The file may be on its way still: a button that cannot be pressed yet is passed over.
        expect(page.get_by_role("button", name="Read the run")).to_be_enabled()
        for _ in range(40):
            page.keyboard.press("Tab")
            if page.evaluate("document.activeElement.textContent") == "Read the run":
                break
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("/runs/[0-9a-f-]{36}$"))
        page.keyboard.press("4")
        expect(page).to_have_url(re.compile("/runs$"))
        expect(page.get_by_role("listitem").first).to_be_visible()
        page.keyboard.press("ArrowDown")
        expect(page.locator(":focus")).to_have_attribute("data-row", re.compile(r"\d"))
        page.keyboard.press("Enter")
        expect(self.says()).to_be_visible()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog", name="keys")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog", name="keys")).to_be_hidden()

    def test_script_in_a_file_name_is_text(self):
        page = self.goto("/runs/read")
        self.choose("<img src=x onerror=alert(1)>.csv", METER)
        expect(page.get_by_test_id("file")).to_contain_text("<img src=x onerror=alert(1)>.csv")


class Demonstration(BrowserTest):
    with_demo = True

    def open(self, text):
        page = self.goto("/runs")
        page.get_by_label("filter the runs").fill(text)
        page.get_by_role("listitem").filter(has_text=text).first.get_by_role("link").click()
        expect(page.get_by_role("img", name="power over time").locator("canvas")).to_be_visible()
        return page

    def total(self):
        return len(self.web.get("/api/runs").json())

    def counted(self, number):
        """How many runs are listed, as the page counts them; the list itself draws only what is in sight."""
        expect(self.page.get_by_role("status").filter(has_text=re.compile(f"^{number}$"))).to_be_visible()

    def test_runs_stand_as_ribbons_and_can_be_sorted_and_filtered(self):
        page = self.goto("/runs")
        self.counted(self.total())
        expect(page.get_by_role("listitem").first.get_by_role("img")).to_have_attribute(
            "aria-label", re.compile("80 % at")
        )
        page.get_by_role("button", name="hottest").click()
        expect(page.get_by_role("listitem").first).to_contain_text("40.")
        page.keyboard.press("f")
        page.keyboard.type("larch")
        expect(page.get_by_role("listitem")).to_have_count(1)
        expect(page.get_by_text(f"1 of {self.total()}")).to_be_visible()
        page.keyboard.press("Escape")
        page.get_by_label("height of the rows").select_option("slim")
        self.assertEqual(page.get_by_role("listitem").first.bounding_box()["height"], 28)

    def test_rows_say_when_and_what_was_simulated_has_a_place_of_its_own(self):
        total = self.total()
        with self.database.session() as session:
            run = next(r for r in list_runs(session) if "Larch" in r.label)
            run.case = run.case.model_copy(update={"simulated": True})
        try:
            page = self.goto("/runs")
            self.counted(total - 1)
            times = page.get_by_role("listitem").locator("time")
            expect(times.first).to_have_attribute("title", re.compile(r"began .+ \(Europe/Zurich\)"))
            days = [t.get_attribute("datetime") for t in times.all()]
            self.assertEqual(days, sorted(days, reverse=True))
            page.get_by_role("button", name="when").click()
            expect(times.first).not_to_have_attribute("datetime", days[0])
            days = [t.get_attribute("datetime") for t in times.all()]
            self.assertEqual(days, sorted(days))
            page.get_by_label("measured only").uncheck()
            self.counted(total)
            page.get_by_role("link", name="Simulated", exact=True).click()
            expect(page.get_by_role("listitem")).to_have_count(1)
            expect(page.get_by_role("listitem")).to_contain_text("Larch twin stand")
            page.get_by_role("link", name="Spot checks", exact=True).click()
            expect(page.get_by_text("No spot check yet")).to_be_visible()
        finally:
            with self.database.session() as session:
                run = next(r for r in list_runs(session) if "Larch" in r.label)
                run.case = run.case.model_copy(update={"simulated": False})

    def test_a_file_read_twice_is_called_a_copy_and_deleted(self):
        read = []
        for name in ("Once", "Twice"):
            page = self.goto("/runs/read")
            self.choose("meter.csv", METER)
            page.get_by_label("label", exact=True).fill(name)
            self.read_run()
            read.append(page.url)
        expect(page.get_by_text("the same file, read twice")).to_be_visible()
        total = self.total()
        page.get_by_role("button", name="Delete the copy").click()
        self.counted(total - 1)
        page.goto(read[0])
        expect(page.get_by_label("what this run says")).to_be_visible()
        expect(page.get_by_text("the same file, read twice")).to_have_count(0)
        page.get_by_role("button", name="Delete", exact=True).click()

    def test_a_sentence_lights_up_its_stretch(self):
        page = self.open("Larch twin stand")
        sentence = self.says().get_by_role("button", name="Keeps drawing")
        before = page.get_by_role("img", name="power over time").locator("canvas").screenshot()
        sentence.click()
        expect(sentence).to_have_attribute("aria-pressed", "true")
        self.assertNotEqual(page.get_by_role("img", name="power over time").locator("canvas").screenshot(), before)
        page.keyboard.press("Escape")
        expect(sentence).to_have_attribute("aria-pressed", "false")

    def test_the_cursor_reads_all_curves(self):
        page = self.open("Larch twin stand")
        page.get_by_role("slider", name="moment of the run").focus()
        for _ in range(12):
            page.keyboard.press("ArrowRight")
        expect(page.get_by_role("slider")).to_have_attribute("aria-valuetext", re.compile(r"\d+ min, 1[23]\.\d watts"))
        readout = page.locator("[aria-live=polite]").first
        for unit in ("W", "%", "°C"):
            expect(readout).to_contain_text(unit)
        page.keyboard.press("Escape")
        expect(readout).to_contain_text("point at a curve")

    def test_dragging_looks_closer_and_back(self):
        page = self.open("Larch twin stand")
        box = page.get_by_role("img", name="power over time").bounding_box()
        page.mouse.move(box["x"] + 200, box["y"] + 60)
        page.mouse.down()
        page.mouse.move(box["x"] + 320, box["y"] + 60, steps=6)
        page.mouse.up()
        page.mouse.move(5, 5)
        back = page.get_by_role("button", name="show the whole run")
        expect(back).to_be_visible()
        back.click()
        expect(back).to_have_count(0)

    def test_each_figure_shows_how_it_was_worked_out(self):
        page = self.open("Larch twin stand")
        row = page.get_by_label("figures").locator("tbody").filter(has_text="efficiency")
        row.get_by_role("button", name="how is this worked out?").click()
        expect(row).to_contain_text("energy into the battery ÷ energy through the meter")
        expect(row).to_contain_text("in quadrature")
        expect(row).to_contain_text("JCGM 100:2008")
        expect(page.get_by_label("figures")).to_contain_text("battery level after 15 min")

    def test_degrees_and_theme_follow_the_settings(self):
        page = self.open("Larch twin stand")
        page.keyboard.press("u")
        expect(self.says()).to_contain_text("°F")
        page.keyboard.press("t")
        expect(page.locator("html")).to_have_attribute("data-theme", "night")
        page.reload()
        expect(page.locator("html")).to_have_attribute("data-theme", "night")
        expect(self.says()).to_contain_text("°F")

    def test_a_label_that_somebody_typed_keeps_its_unit_and_is_sent_back_as_it_was(self):
        with self.database.session() as session:
            run = next(r for r in list_runs(session) if "Gully puck 10" in r.label)
            was, run.label = run.label, "Gully puck 10 at 22-27 °C, 4 K over"
            kept = run.id
        try:
            page = self.goto("/runs")
            page.get_by_role("button", name="switch °C and °F").click()
            page.goto(f"{self.address}/runs/{kept}")
            expect(page.get_by_role("heading", name="Gully puck 10 at 22-27 °C, 4 K over")).to_be_visible()
            page.get_by_role("button", name="Correct", exact=True).click()
            dialog = page.get_by_role("dialog", name="correct this run")
            expect(dialog.get_by_label("label")).to_have_value("Gully puck 10 at 22-27 °C, 4 K over")
        finally:
            with self.database.session() as session:
                next(r for r in list_runs(session) if r.id == kept).label = was

    def test_a_correction_is_read_anew_signed_and_undone(self):
        page = self.open("Cairn disc 15")
        page.get_by_label("notes signed by").fill("Anna")
        page.get_by_role("button", name="Correct").click()
        dialog = page.get_by_role("dialog", name="correct this run")
        label = dialog.get_by_label("label")
        was = label.input_value()
        label.fill("Put right")
        dialog.get_by_role("button", name="Save and read again").click()
        expect(page.get_by_role("heading", name="Put right")).to_be_visible()
        expect(page.get_by_label("where it comes from")).to_contain_text("Anna")
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("heading", name=was)).to_be_visible()

    def test_a_deleted_run_is_brought_back(self):
        total = self.total()
        page = self.open("Gully puck 10")
        page.get_by_role("button", name="Delete", exact=True).click()
        self.counted(total - 1)
        page.get_by_role("button", name="Undo").click()
        self.counted(total)

    def test_a_deleted_run_is_brought_back_later(self):
        total = self.total()
        page = self.open("Gully puck 10")
        page.get_by_role("button", name="Delete", exact=True).click()
        expect(page.get_by_role("button", name="1 deleted")).to_be_visible()
        page = self.goto("/runs")
        page.get_by_role("button", name="1 deleted").click()
        page.get_by_role("button", name="restore Quill Lite on Gully puck 10").click()
        self.counted(total)
        expect(page.get_by_role("button", name="1 deleted")).to_have_count(0)

    def test_notes_and_pictures(self):
        page = self.open("Serac dock 15")
        page.get_by_label("a note on this run").fill("moved <b>it</b>")
        page.get_by_role("button", name="Add note").click()
        remarks = page.get_by_label("notes and pictures")
        expect(remarks).to_contain_text("moved <b>it</b>")
        picture = {"name": "ir.png", "mimeType": "image/png", "buffer": page.screenshot()}
        page.get_by_label("a picture of this run").set_input_files(picture)
        expect(remarks.get_by_role("img")).to_have_count(1)
        remarks.get_by_role("button", name="delete ir.png").click()
        expect(remarks.get_by_role("img")).to_have_count(0)


class AuditOfRuns(Audit):
    def test_every_screen_in_both_themes(self):
        for page in self.in_both_themes():
            with self.subTest(page.locator("html").get_attribute("data-theme")):
                expect(page.get_by_role("listitem").first).to_be_visible()
                self.audit("runs")
                gone = self.web.get("/api/runs").json()[0]["id"]
                self.web.delete(f"/api/runs/{gone}")
                page.reload()
                page.get_by_role("button", name="1 deleted").click()
                expect(page.get_by_role("dialog", name="deleted runs")).to_be_visible()
                self.audit("deleted runs")
                page.get_by_role("button", name="restore").click()
                expect(page.get_by_role("dialog", name="deleted runs")).to_have_count(0)
                page.get_by_role("listitem").first.get_by_role("link").click()
                expect(page.get_by_role("img", name="power over time").locator("canvas")).to_be_visible()
                self.says().get_by_role("button").first.click()
                page.get_by_role("button", name="how is this worked out?").first.click()
                self.audit("run")
                page.get_by_role("button", name="add one").click()
                page.get_by_role("button", name="move").first.click()
                page.get_by_role("button", name="take this run as reference").click()
                page.get_by_role("button", name="change", exact=True).click()
                self.audit("deciding")
                page.get_by_role("button", name="Correct").click()
                expect(page.get_by_role("dialog", name="correct this run")).to_be_visible()
                self.audit("correcting")
                self.goto("/runs/heat")
                expect(page.get_by_role("table")).to_be_visible()
                self.audit("heat across runs")
                self.goto("/runs/read")
                self.choose("odd.csv", METER.replace("volts,amps", "x,y"))
                expect(page.get_by_role("alert")).to_be_visible()
                page.get_by_role("textbox", name="Battery percentages").fill("0 10\n30 140")
                expect(page.get_by_text("140 % is not")).to_be_visible()
                self.audit("reading a file")
                self.choose("wide.csv", "min,Cairn,Serac\n0,10,11\n10,20,23\n20,31,abc\n30,40,47\n")
                page.get_by_role("link", name="See and store them").click()
                expect(page.get_by_role("img", name="ribbon of run 2")).to_be_visible()
                self.audit("runs of a file")
                page.get_by_role("button", name="keys").click()
                expect(page.get_by_role("dialog", name="keys")).to_be_visible()
                self.audit("keys")


class AuditOfTheEmptyStore(Audit):
    """The same where nothing is stored yet."""

    with_demo = False

    def test_every_screen_in_both_themes(self):
        for page in self.in_both_themes():
            with self.subTest(page.locator("html").get_attribute("data-theme")):
                expect(page.get_by_text("to read your first run")).to_be_visible()
                self.audit("no runs")
                page.keyboard.press("n")
                expect(page.get_by_label("files to read")).to_be_focused()
                self.audit("no files")
