"""What goes wrong at a bench: long names, many runs, the wrong sheet, a phone known already, no network."""

import io
import re
import uuid
from pathlib import Path

import openpyxl
from playwright.sync_api import expect
from sqlalchemy import text

from jaunecharge.core.log.check_ins import Battery
from jaunecharge.documents.case import Case
from jaunecharge.live.spool import Spool
from jaunecharge.store.bench import arriving
from jaunecharge.store.runs.runs import NewRun, add_run
from tests.browser.test_runs import METER, BrowserTest
from tests.cases import checkins, reading, steps
from tests.patience import until

LONG = "Ostrel Maximilian with the extra long name that nobody shortens"


def add(session, label, minutes=60, percent=85.0, **factors):
    run = reading(
        steps((60, 0.5), (60 * minutes, 12.0)), checkins((1, 10), (minutes, percent)), battery=Battery(4400, 3.87)
    )
    case = Case(capacity_mah=4400, nominal_v=3.87, battery_health=0.9)
    return add_run(session, NewRun(label, run.log, case, factors=factors))


class ManyRuns(BrowserTest):
    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            add(session, "a run of ten hours", minutes=610)
            for n in range(120):
                add(session, f"run {n}", phone=LONG if n % 9 == 0 else f"Tarn {n}", charger="Cairn disc 15")

    def test_only_what_is_seen_is_drawn(self):
        page = self.goto("/runs")
        expect(page.get_by_text("121", exact=True)).to_be_visible()
        self.assertLess(page.get_by_role("listitem").count(), 30)
        page.get_by_label("height of the rows").select_option("slim")
        last = page.get_by_role("listitem").filter(has_text="a run of ten hours")
        rows = page.get_by_role("list", name="runs").locator("..")
        # In braces: what the browser answers to a scroll would pass for the row being there.
        to_its_end = "e => { e.scrollTo(0, 1e6) }"
        until(lambda: rows.evaluate(to_its_end) or page.wait_for_timeout(200) or last.count())
        rows.evaluate(to_its_end)
        expect(last).to_be_visible()
        self.assertLess(page.get_by_role("listitem").count(), 60)

    def test_the_scale_fits_the_longest_run_that_is_shown_unless_it_is_far_longer_than_most(self):
        page = self.goto("/runs")
        expect(page.get_by_text("0:40", exact=True)).to_be_attached()
        expect(page.get_by_text("10:00", exact=True)).to_have_count(0)
        page.get_by_label("filter the runs").fill("ten hours")
        expect(page.get_by_text("10:00", exact=True)).to_be_attached()
        page.get_by_label("filter the runs").fill("Tarn")
        expect(page.get_by_text("10:00", exact=True)).to_have_count(0)
        expect(page.get_by_text("0:40", exact=True)).to_be_attached()

    def test_nothing_runs_out_of_the_page_sideways(self):
        for path in ("/runs", "/runs/read"):
            page = self.goto(path)
            expect(page.get_by_role("heading", level=1)).to_be_visible()
            width = page.evaluate("[document.documentElement.scrollWidth, document.querySelector('main').scrollWidth]")
            self.assertLessEqual(width[0], 1280, path)
            self.assertLessEqual(width[1], 1280 - 118, path)
        page = self.goto("/runs")
        page.get_by_role("listitem").filter(has_text=LONG).first.get_by_role("link").click()
        expect(self.says()).to_be_visible()
        self.assertLessEqual(page.evaluate("document.querySelector('main').scrollWidth"), 1280 - 118)

    def test_pointing_at_a_ribbon_reads_it_out(self):
        page = self.goto("/runs")
        ribbon = page.get_by_role("listitem").filter(has_text="Tarn").first.get_by_role("img")
        box = ribbon.bounding_box()
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 35)
        expect(ribbon).to_contain_text(re.compile(r"\d:\d\d · 12\.0 W · past \d0 %"))
        page.mouse.move(box["x"] + 30, 5)
        expect(ribbon).not_to_contain_text("W ·")

    def test_the_ticks_of_a_ribbon_stand_in_a_table_as_well(self):
        page = self.goto("/runs")
        page.get_by_role("listitem").filter(has_text="Tarn").first.get_by_role("link").click()
        rows = page.get_by_role("table", name="when each level was reached, after placing").get_by_role("row")
        expect(rows).to_have_count(1 + 7)
        expect(rows.last).to_contain_text("80 %")

    def test_arrows_go_from_run_to_run_through_the_whole_list(self):
        page = self.goto("/runs")
        expect(page.get_by_role("listitem").first).to_be_visible()
        for _ in range(14):
            page.keyboard.press("ArrowDown")
        expect(page.locator(":focus")).to_have_attribute("data-row", "13")
        page.keyboard.press("ArrowUp")
        expect(page.locator(":focus")).to_have_attribute("data-row", "12")

    def test_a_filter_that_fits_nothing_says_so(self):
        page = self.goto("/runs")
        page.get_by_label("filter the runs").fill("no such charger")
        expect(page.get_by_text("No run matches “no such charger”.")).to_be_visible()

    def test_an_address_of_a_run_that_is_not_there(self):
        page = self.goto("/runs/00000000-0000-0000-0000-000000000000")
        expect(page.get_by_role("alert")).to_contain_text("there is no run")
        page.get_by_role("link", name="Back to the runs").click()
        expect(page.get_by_role("heading", name="Runs")).to_be_visible()


class Reading(BrowserTest):
    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            add(session, "known", phone="Quill Lite", charger="Gully puck 10")

    def test_a_phone_known_already_brings_its_battery(self):
        page = self.goto("/runs/read")
        page.get_by_label("phone", exact=True).fill("Quill Lite")
        expect(page.get_by_label("battery, mAh")).to_have_value("4400")
        expect(page.get_by_label("at, V")).to_have_value("3.87")
        expect(page.get_by_label("health, %")).to_have_value("90")

    def test_a_room_in_fahrenheit_is_kept_in_celsius(self):
        page = self.goto("/runs/read")
        expect(page.get_by_label("room, °C")).to_be_visible()
        page.get_by_role("button", name="switch °C and °F").click()
        self.choose("meter.csv", METER + "4001,9,1.5\n")
        page.get_by_label("room, °F").fill("77")
        self.read_run()
        found = self.web.get(f"/api/runs/{page.url.rsplit('/', 1)[1]}").json()
        self.assertEqual(found["case"]["ambient_c"], 25)
        page.get_by_role("button", name="Correct").click()
        expect(page.get_by_label("room, °F")).to_have_value("77.0")

    def test_a_long_upload_shows_how_far_it_has_come(self):
        page = self.goto("/runs/read")
        page.evaluate("""() => {
          const send = XMLHttpRequest.prototype.send
          XMLHttpRequest.prototype.send = function (body) {
            this.upload.onprogress(new ProgressEvent('progress', {lengthComputable: true, loaded: 41, total: 100}))
            setTimeout(() => send.call(this, body), 1500)
          }
        }""")
        self.choose("slow.csv", METER)
        expect(page.get_by_role("progressbar", name="sending slow.csv")).to_have_attribute("value", "0.41")
        expect(page.get_by_text("sending, 41 %")).to_be_visible()
        expect(page.get_by_text("Ready")).to_be_visible()

    def test_what_was_typed_over_is_not_overwritten(self):
        page = self.goto("/runs/read")
        page.get_by_label("battery, mAh").fill("3000")
        page.get_by_label("phone", exact=True).fill("Quill Lite")
        expect(page.get_by_label("battery, mAh")).to_have_value("3000")

    def test_another_sheet_is_chosen(self):
        book = openpyxl.Workbook()
        book.active.title = "battery"
        for row in (("min", "%"), (0, 10), (20, 30), (40, 50)):
            book.active.append(row)
        page_of_log = book.create_sheet("log")
        page_of_log.append(("time_s", "volts", "amps"))
        for t in range(3000):
            page_of_log.append((t, 9.0, 1.5 if t > 60 else 0.05))
        out = io.BytesIO()
        book.save(out)
        page = self.goto("/runs/read")
        self.drop("[data-testid=read]", "evening.xlsx", out.getvalue())
        card = page.get_by_test_id("file")
        expect(card.get_by_label("check-ins")).to_be_checked()
        card.get_by_label("sheet").select_option("log")
        expect(card.get_by_label("meter log")).to_be_checked()
        expect(card).to_contain_text("sheet log")
        self.read_run()
        expect(self.says()).to_contain_text("Draws 13.5 W")

    def test_a_file_is_taken_away_and_the_same_read_twice_is_told(self):
        page = self.goto("/runs/read")
        self.choose("twice.csv", METER + "4000,9,1.5\n")
        expect(page.get_by_text("Ready")).to_be_visible()
        self.read_run()
        page = self.goto("/runs/read")
        self.choose("twice.csv", METER + "4000,9,1.5\n")
        expect(page.get_by_text("The same file was read before: twice.csv.")).to_be_visible()
        page.get_by_role("button", name="remove").click()
        expect(page.get_by_test_id("file")).to_have_count(0)
        expect(page.get_by_text("Nothing to read yet: drop a file, or type percentages.")).to_be_visible()

    def test_a_field_that_wants_a_number_says_so_beside_it(self):
        page = self.goto("/runs/read")
        self.choose("meter.csv", METER)
        page.get_by_label("battery, mAh").fill("four thousand")
        expect(page.get_by_text("write a number")).to_be_visible()
        expect(page.get_by_role("button", name="Read the run")).to_be_disabled()
        page.get_by_label("battery, mAh").fill("-4000")
        page.get_by_label("at, V").fill("3.87")
        page.get_by_role("button", name="Read the run").click()
        expect(page.get_by_role("alert")).to_contain_text("capacity_mah")
        expect(page.get_by_label("battery, mAh")).to_have_value("-4000")

    def test_temperatures_in_the_same_table_come_along(self):
        rows = "".join(f"{t},9.0,{1.5 if t > 60 else 0.05},{25 + t / 300:.2f},24.5\n" for t in range(3000))
        page = self.goto("/runs/read")
        self.choose("all.csv", "time_s,volts,amps,back °C,room °C\n" + rows)
        expect(page.get_by_test_id("file").get_by_label("temperatures")).to_be_checked()
        self.read_run()
        expect(self.says()).to_contain_text(re.compile(r"Hottest 35.0\s°C, 10.5\sK over the room"))
        expect(page.get_by_role("img", name="temperature over time").locator("canvas")).to_be_visible()

    def test_the_clock_of_check_ins_can_be_changed(self):
        page = self.goto("/runs/read")
        self.choose("meter.csv", METER)
        page.get_by_role("textbox", name="Battery percentages").fill("1 10\n31 50\n61 81")
        page.get_by_label("from when the minutes count").select_option("log")
        self.read_run()
        expect(self.says()).to_contain_text("between 30 min and 1 h 00")

    def test_two_windows_the_later_is_told(self):
        page = self.goto("/runs")
        page.get_by_role("listitem").filter(has_text="Quill Lite").first.get_by_role("link").click()
        page.get_by_role("button", name="Correct").click()
        run = self.web.get("/api/runs").json()
        known = next(r for r in run if r["factors"]["phone"] == "Quill Lite")
        self.web.patch(f"/api/runs/{known['id']}", json={"revision": known["revision"], "label": "changed elsewhere"})
        dialog = page.get_by_role("dialog", name="correct this run")
        dialog.get_by_label("label").fill("mine")
        dialog.get_by_role("button", name="Save and read again").click()
        expect(dialog.get_by_role("alert")).to_contain_text("changed in another window")
        expect(dialog.get_by_label("label")).to_have_value("mine")


class Alone(BrowserTest):
    """Nothing is asked of any other machine."""

    with_demo = True

    def test_every_request_stays_on_this_machine(self):
        asked = []
        self.page.on("request", lambda request: asked.append(request.url))
        page = self.goto("/runs")
        page.get_by_role("listitem").first.get_by_role("link").click()
        expect(page.get_by_role("img", name="power over time").locator("canvas")).to_be_visible()
        self.assertEqual([u for u in asked if not u.startswith((self.address, "data:", "blob:"))], [])
        self.assertTrue(any(u.endswith(".woff2") for u in asked), "the fonts are shipped")

    def test_a_server_that_is_gone_is_said(self):
        page = self.goto("/runs/read")
        page.route("**/api/uploads**", lambda route: route.abort())
        self.choose("meter.csv", METER)
        expect(page.get_by_role("alert")).to_contain_text("the application does not answer")
        self.errors = [e for e in self.errors if "ERR_FAILED" not in e]

    def test_reduced_motion_is_respected(self):
        page = self.browser.new_page(reduced_motion="reduce")
        self.addCleanup(page.close)
        page.goto(self.address + "/runs")
        expect(page.get_by_role("listitem").first).to_be_visible()
        durations = page.evaluate(
            "[...document.querySelectorAll('button')].map(b => getComputedStyle(b).transitionDuration)"
        )
        self.assertEqual(set(durations), {"0s"})


class SetAside(BrowserTest):
    """What could not be shown or stored is said on every page; the rest goes on."""

    def test_a_lane_that_cannot_be_shown_is_said_and_ended(self):
        for label in ("one", "two"):
            self.web.post("/api/lanes", json={"factors": {"phone": label}, "ambient_c": 25.0}).raise_for_status()
        bad = next(x["view"] for x in self.web.get("/api/bench").json()["lanes"] if x["view"]["name"] == "A")
        with self.database.engine.begin() as connection:
            connection.execute(text("UPDATE bench SET tick = tick + 1"))
            row = "(:lane, 'x', 0, 0, 'Infinity', 5, '', (SELECT tick FROM bench))"
            connection.execute(
                text(f"INSERT INTO lane_readings (lane_id, source, epoch, n, t_s, watts, position, tick) VALUES {row}"),
                {"lane": bad["id"]},
            )
            connection.execute(text("SELECT pg_notify('bench', '0')"))
        page = self.goto("/runs")
        expect(page.get_by_role("alert")).to_contain_text("Lane A cannot be shown, and no alarm is given for it")
        page.keyboard.press("3")
        expect(page.get_by_text("1 lane on one clock")).to_be_visible()
        page.get_by_role("button", name="End lane A as void").click()
        expect(page.get_by_text("cannot be shown")).to_have_count(0)

    def test_readings_put_aside_are_seen_and_let_go(self):
        lane = arriving.Batch(uuid.uuid4(), "meter B", 60.0, (arriving.Row(0, watts=5.0),) * 3)
        spool = Spool(self.folder / "waiting.sqlite3")
        spool.put_aside(lane, "it was refused")
        spool.close()
        page = self.goto("/shelf")
        expect(page.get_by_role("alert")).to_contain_text("1 batch of readings could not be stored")
        page.get_by_role("link", name="See what they are").click()
        expect(page.get_by_role("row", name=re.compile("meter B 3 it was refused"))).to_be_visible()
        with page.expect_download() as saved:
            page.get_by_role("button", name="Save them as JSON").click()
        self.assertIn("meter B", Path(saved.value.path()).read_text())
        page.once("dialog", lambda dialog: dialog.accept())
        page.get_by_role("button", name="Delete them").click()
        expect(page.get_by_text("Nothing is set aside.")).to_be_visible()
