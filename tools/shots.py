"""Pictures of the main views, made from the demonstration's data: docs/screenshots, or the folder named."""

import contextlib
import re
import sys
import tempfile
import uuid
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

import httpx
from playwright.sync_api import Page
from tests.browser.chromium import chromium
from tests.serving import fresh_database, served

from jaunecharge.demo.hut import load
from jaunecharge.instruments.scpi import Scpi
from jaunecharge.store.bench.lanes import get_lane
from jaunecharge.store.database import Database


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
    page.get_by_role("listitem").first.get_by_role("link").click()
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


PHONE = {"width": 390, "height": 844}
LANES = (
    ({"phone": "Ostrel Mini", "charger": "Cairn disc 15", "adapter": "Plug 20"}, 27.0, 60, 9.0),
    ({"phone": "Ostrel Max", "charger": "Serac dock 15", "adapter": "Plug 20"}, 30.0, 60, 14.0),
    ({"phone": "Tarn 9", "charger": "Larch twin stand", "place": "left", "adapter": "Plug 30 twin"}, 23.0, 60, 20.0),
)


def packs(page: Page, address: str, shot: Callable[[str], None]) -> None:
    page.goto(f"{address}/packs")
    page.get_by_role("img", name=re.compile("^volts under load")).wait_for()
    page.wait_for_timeout(300)
    shot("packs")


def finding(page: Page, address: str, shot: Callable[[str], None]) -> None:
    page.goto(f"{address}/findings")
    page.get_by_role("img", name=re.compile("on Ostrel Max")).first.wait_for()
    shot("finding")


def versus(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """Everything on one phone against each other, what it costs, and phones × chargers."""
    page.goto(f"{address}/versus")
    page.get_by_role("link", name="everything on Ostrel Max").click()
    page.get_by_role("form", name="window").get_by_role("button", name="10 to 80").click()
    page.get_by_text("10 to 80 %").first.wait_for()
    page.wait_for_load_state("networkidle")
    row = page.locator("section[aria-label=ribbons] [data-row]").nth(3)
    box = row.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 520, box["y"] + 12)
    shot("versus")
    page.goto(f"{address}/versus/table")
    page.get_by_text("place 1").first.wait_for()
    page.get_by_label("plan Cairn disc 15 on Quill Lite").click()
    shot("versus-table")


def bench(page: Page, address: str, database: Database, shot: Callable[[str], None]) -> None:
    """Three lanes under way, one of which has lost its meter; one being set; the same in the hand."""
    with httpx.Client(base_url=address, timeout=60, headers={"Jaunecharge-By": "Mira"}) as web:
        made = []
        for factors, ambient_c, speed, seconds in LANES:
            body = {"factors": factors, "ambient_c": ambient_c, "practice": speed}
            lane = web.post("/api/lanes", json=body).json()["view"]
            page.wait_for_timeout(2500)
            web.post(f"/api/lanes/{lane['id']}/placed")
            page.wait_for_timeout(seconds * 400)
            made.append(lane["id"])
        page.wait_for_timeout(14_000)
        with contextlib.closing(Scpi(address_of(database, made[2]))) as meter:
            meter.tell("SIM:FAULT silence+9000")
        page.goto(f"{address}/bench?lane=B")
        page.get_by_text("nothing from the meter").first.wait_for(timeout=60_000)
        page.keyboard.press("/")
        page.keyboard.type("b 41,2c pad")
        page.get_by_text("Enter logs it").wait_for()
        shot("bench")
        web.post(f"/api/lanes/{made[2]}/ended", json={"outcome": "void", "reason": "its meter is gone"})
        factors = {"phone": "Quill Lite", "charger": "Gully puck 10", "adapter": "Plug 18"}
        lane = web.post("/api/lanes", json={"factors": factors, "ambient_c": 22.0, "practice": 1}).json()["view"]
        page.wait_for_timeout(6000)
        line = {"id": str(uuid.uuid4()), "line": f"{lane['name']} 34", "sure": True}
        web.post("/api/bench/lines", json=line)
        page.goto(f"{address}/bench?lane={lane['name']}")
        page.get_by_text("drain it further").wait_for()
        shot("bench-setting")
        web.post(f"/api/lanes/{lane['id']}/ended", json={"outcome": "void", "reason": "not today"})
        page.set_viewport_size(PHONE)
        page.goto(f"{address}/bench?lane=A")
        page.get_by_label("lane B", exact=False).first.wait_for()
        page.wait_for_timeout(500)
        shot("narrow-bench")
        token = web.get(f"/api/lanes/{made[0]}/link").json()["token"]
        page.goto(f"{address}/hand/{token}")
        for key in "47":
            page.get_by_role("button", name=key, exact=True).click()
        shot("bench-hand")


def narrow(page: Page, address: str, shot: Callable[[str], None]) -> None:
    """The main views on a phone."""
    page.set_viewport_size(PHONE)
    page.goto(f"{address}/runs")
    page.get_by_role("listitem").first.locator("svg").wait_for()
    shot("narrow-runs")
    open_narrow(page, "Larch")
    page.get_by_role("button", name="of 29", exact=False).first.click()
    shot("narrow-run")
    chain(page, f"{address}/shelf", "Cairn disc 15", "Ostrel Max")
    shot("narrow-shelf")
    page.set_viewport_size({"width": 1280, "height": 800})


def open_narrow(page: Page, label: str) -> None:
    page.get_by_label("filter the runs").fill(label)
    page.get_by_role("listitem").first.get_by_role("link").click()
    page.get_by_label("what this run says").wait_for()
    page.wait_for_timeout(400)


def address_of(database: Database, lane: str) -> str:
    """Where the stand-in of a lane answers."""
    with database.session() as session:
        return get_lane(session, uuid.UUID(lane)).meter_address


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

        page.goto(address)
        page.get_by_text("to read your first run").wait_for()
        load(database)
        page.reload()
        page.get_by_role("listitem").first.wait_for()
        shot("runs")
        chain(page, f"{address}/shelf", "Moraine magnet pad", "Ostrel Max")
        shot("shelf")
        page.goto(f"{address}/plan")
        page.locator("[data-slot]").first.wait_for()
        page.wait_for_timeout(1500)
        page.get_by_role("progressbar").wait_for(state="detached", timeout=40_000)
        page.locator("[data-slot]").first.wait_for()
        shot("plan")
        page.goto(f"{address}/runs")
        open_run(page, "heat cost Mini")
        page.get_by_label("what this run says").get_by_role("button", name="Heat slowed it").click()
        shot("run")
        page.get_by_role("button", name="show each").first.click()
        page.get_by_role("region", name="dips").get_by_role("button", name="change", exact=True).first.click()
        page.get_by_role("region", name="dips").evaluate("e => e.scrollIntoView()")
        shot("run-figures")
        page.goto(f"{address}/runs/heat")
        page.get_by_role("table").wait_for()
        shot("heat")
        versus(page, address, shot)
        packs(page, address, shot)
        finding(page, address, shot)
        page.goto(f"{address}/runs/read")
        path = Path(folder) / "hut-3-bunk.csv"
        path.write_text(METER, encoding="utf-8")
        page.get_by_label("files to read").set_input_files(path)
        page.get_by_text("semicolons").wait_for()
        page.get_by_role("textbox", name="Battery percentages").fill("0 5\n15 22\n0:30 33\n45 41")
        page.get_by_text("4 check-ins").wait_for()
        shot("read-a-file")
        page.keyboard.press("Escape")
        narrow(page, address, shot)
        bench(page, address, database, shot)
        page.set_viewport_size({"width": 1280, "height": 800})
        page.evaluate("localStorage.setItem('jaunecharge.theme', 'night')")
        chain(page, f"{address}/shelf?room=33", "Cairn disc 15", "Ostrel Mini")
        shot("shelf-night")


if __name__ == "__main__":
    main()
