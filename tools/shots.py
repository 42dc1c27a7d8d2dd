"""Pictures of the main views, made from the demonstration's data: docs/screenshots, or the folder named."""

import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from playwright.sync_api import Page
from tests.browser.chromium import chromium
from tests.serving import fresh_database, served

from jaunecharge.demo.hut import load


def meter_row(t: int) -> str:
    milliamps = 1500 + t % 11 if t > 60 else 55
    cells = (
        f"0:{t // 60:02}:{t % 60:02}",
        f"{9 - t % 7 / 1000:.3f}",
        f"{milliamps + t % 3 / 10:.1f}",
        f"{25 + t / 400:.2f}",
    )
    return ";".join(cells).replace(".", ",") + "\n"


METER = "Zeit;Spannung [V];Strom [mA];Gehäuse [°C]\n" + "".join(map(meter_row, range(3000)))


def open_run(page: Page, label: str) -> None:
    page.goto(page.url.split("/runs")[0] + "/runs")
    page.get_by_label("filter the runs").fill(label)
    page.get_by_role("listitem").filter(has_text=label).first.get_by_role("link").click()
    page.locator("canvas").nth(1).wait_for()
    page.wait_for_timeout(400)


def chain(page: Page, address: str, charger: str, phone: str) -> None:
    page.goto(address)
    page.get_by_role("heading", name="Worth testing?").wait_for()
    page.get_by_label("charger", exact=True).select_option(label=charger)
    page.get_by_label("phone", exact=True).select_option(label=phone)
    page.wait_for_load_state("networkidle")
    page.get_by_role("progressbar").wait_for(state="detached")
    page.wait_for_timeout(300)


def main() -> None:
    target = Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots")
    target.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as folder,
        fresh_database() as database,
        served(database, Path(folder) / "uploads") as address,
        chromium() as browser,
    ):
        page = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme="light")

        def shot(name: str, full: bool = False) -> None:
            page.evaluate("document.fonts.ready")
            page.wait_for_timeout(250)
            page.screenshot(path=target / f"{name}.png", full_page=full)

        page.goto(f"{address}/shelf")
        page.get_by_text("Say what you own").wait_for()
        shot("shelf-empty")
        page.goto(address)
        page.get_by_text("to read your first run").wait_for()
        shot("runs-empty")
        load(database)
        page.reload()
        page.get_by_role("listitem").first.wait_for()
        shot("runs")
        chain(page, f"{address}/shelf", "Moraine magnet pad", "Ostrel Max")
        shot("shelf")
        page.goto(f"{address}/shelf/kit")
        page.get_by_label("add kit in one line").fill("puck Knoll disc mpp claims 15W asks 9V2.22A 39 EUR fan")
        page.get_by_text("“Knoll disc”").wait_for()
        shot("kit")
        page.get_by_title("change Larch twin stand").click()
        page.get_by_role("dialog").get_by_label("claims, W").fill("many")
        page.get_by_role("dialog").get_by_role("button", name="Save").click()
        page.get_by_text("is not a number").wait_for()
        shot("kit-form")
        chain(page, f"{address}/shelf", "Cairn disc 15", "Ostrel Mini")
        page.get_by_role("button", name="Rehearse this chain").click()
        page.locator("canvas").nth(1).wait_for()
        page.wait_for_timeout(400)
        shot("rehearsal")
        page.goto(f"{address}/plan")
        page.locator("[data-slot]").first.wait_for()
        page.wait_for_timeout(1500)
        page.get_by_role("progressbar").wait_for(state="detached", timeout=40_000)
        page.locator("[data-slot]").first.wait_for()
        shot("plan")
        page.keyboard.press("e")
        page.get_by_role("table", name="matrix").wait_for()
        page.get_by_text("Shows differences").wait_for()
        shot("plan-making")
        page.get_by_role("button", name="a card of my own").click()
        page.get_by_role("dialog").wait_for()
        shot("plan-card")
        page.keyboard.press("Escape")
        page.goto(f"{address}/runs")
        open_run(page, "Serac dock 15")
        page.get_by_label("what this run says").get_by_role("button").first.click()
        shot("run")
        page.get_by_text("how is this worked out?").nth(6).click()
        page.get_by_label("figures").scroll_into_view_if_needed()
        shot("run-figures")
        page.goto(f"{address}/runs/read")
        path = Path(folder) / "hut-3-bunk.csv"
        path.write_text(METER, encoding="utf-8")
        page.get_by_label("files to read").set_input_files(path)
        page.get_by_text("semicolons").wait_for()
        page.get_by_role("textbox", name="Battery percentages").fill("0 5\n15 22\n0:30 33\n45 41")
        page.get_by_text("4 check-ins").wait_for()
        shot("read-a-file")
        page.keyboard.press("Escape")
        page.evaluate("localStorage.setItem('jaunecharge.theme', 'night')")
        chain(page, f"{address}/shelf?room=33", "Cairn disc 15", "Ostrel Mini")
        shot("shelf-night")
        page.goto(f"{address}/plan")
        page.get_by_role("button", name="Next").click()
        page.get_by_text("expected").first.wait_for()
        shot("plan-night")
        page.goto(f"{address}/runs")
        page.get_by_role("listitem").first.wait_for()
        shot("runs-night")
        open_run(page, "Larch twin stand")
        shot("run-night")


if __name__ == "__main__":
    main()
