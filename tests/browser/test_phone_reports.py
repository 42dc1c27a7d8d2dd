"""The phone on the charger reports itself: a stand-in of the Battery Status API in the real browser."""

import os
import time
import uuid

from playwright.sync_api import expect
from sqlalchemy import text

from jaunecharge.core.plan.method import ready
from jaunecharge.live.steady import now
from jaunecharge.store.bench.lanes import NewLane, open_lane
from tests.browser.base import BrowserTest
from tests.patience import until

STAND_IN = """
class StandInBattery extends EventTarget {
  get level() { return Number(localStorage.getItem('standin.level') ?? '20') / 100 }
  get charging() { return localStorage.getItem('standin.charging') !== 'no' }
}
const battery = new StandInBattery()
Navigator.prototype.getBattery = async () => battery
/** The phone steps: when it did [ms]. */
window.step = (percent) => {
  localStorage.setItem('standin.level', String(percent))
  const at = Date.now()
  battery.dispatchEvent(new Event('levelchange'))
  return at
}
window.unplug = (charging) => {
  localStorage.setItem('standin.charging', charging ? 'yes' : 'no')
  battery.dispatchEvent(new Event('chargingchange'))
}
"""
SPEED = 60.0
CARD = ready("From ten to full")
STATE = text("SELECT factors->>'phone_state' FROM lanes WHERE id = :lane")
STORED = text(
    "SELECT t_s, percent, charging FROM lane_readings WHERE lane_id = :lane AND percent IS NOT NULL ORDER BY t_s"
)
STEPS = int(os.environ.get("PHONE_STEPS", "24"))
"""How many steps of a charge are played; 100 are three hours at 60 times (`make faults`)."""

STEP_S = 1.8
"""A step of 1.8 min each, at 60 times."""


class Reports(BrowserTest):
    let_pass = "ERR_INTERNET_DISCONNECTED"

    def setUp(self):
        super().setUp()
        self.page.set_viewport_size({"width": 390, "height": 844})
        self.page.add_init_script(STAND_IN)

    def open(self, speed=1.0):
        with self.database.session() as session:
            lane = open_lane(session, NewLane("Ostrel Max by wire", {"phone": "Ostrel Max"}, CARD, speed=speed), now())
            self.lane_id, self.token, self.opened = lane.id, lane.token, lane.opened_at
        self.page.goto(f"{self.address}/hand/{self.token}")
        return self.page

    def stored(self):
        """Every report of the lane: (at [s of the lane], %, whether it charges)."""
        with self.database.session() as session:
            return [tuple(r) for r in session.execute(STORED, {"lane": self.lane_id})]

    def begin(self, page):
        page.get_by_role("button", name="Yes", exact=True).click()
        expect(page.get_by_label("this phone reports")).to_contain_text("This phone reports its level.")
        until(self.stored)

    def test_each_level_once_over_outages_and_reloads_within_a_second_of_the_lane(self):
        page = self.open(SPEED)
        self.begin(page)
        stepped = {}
        offline, reloads = {STEPS // 5, 2 * STEPS // 5, 3 * STEPS // 5, 4 * STEPS // 5}, {STEPS // 3, STEPS // 2}
        first = 20 if STEPS <= 80 else 100 - STEPS
        for n in range(1, STEPS + 1):
            if n in offline:
                page.context.set_offline(True)
            stepped[first + n] = page.evaluate("percent => window.step(percent)", first + n) / 1000.0
            time.sleep(STEP_S)
            if n - 2 in offline:
                page.context.set_offline(False)
            if n in reloads:
                page.context.set_offline(False)
                page.reload()
                expect(page.get_by_label("this phone reports")).to_contain_text("This phone reports its level.")
        page.context.set_offline(False)
        last = first + STEPS
        until(lambda: any(p == last for _, p, _ in self.stored()))
        expect(page.get_by_label("this phone reports")).to_contain_text(f"{last} % at")
        reached = {}
        for at, percent, _ in self.stored():
            reached.setdefault(percent, at)
        opened = self.opened.timestamp()
        for percent, at in stepped.items():
            self.assertAlmostEqual(reached[float(percent)], (at - opened) * SPEED, delta=1.0)
        # None came twice under another number: the level never goes back.
        levels = [p for _, p, _ in self.stored()]
        self.assertEqual(levels, sorted(levels))
        self.assertEqual(page.evaluate("Object.keys(localStorage).filter((k) => k.includes('.level.')).length"), 0)

    def test_on_a_dark_page_the_run_states_it_and_charging_is_told(self):
        page = self.open()
        self.begin(page)
        page.get_by_role("button", name="Dark page").click()
        dark = page.get_by_role("button", name="leave the dark page")
        expect(dark).to_contain_text("20 %")
        self.assertEqual(dark.evaluate("e => getComputedStyle(e).backgroundColor"), "rgb(0, 0, 0)")
        page.evaluate("window.unplug(false)")
        until(lambda: self.stored()[-1][2] is False)

        def state():
            with self.database.session() as session:
                return session.scalar(STATE, {"lane": self.lane_id})

        until(lambda: state() == "screen on, dark page")
        page.reload()
        expect(dark).to_be_visible()
        dark.click()
        expect(page.get_by_role("button", name="Log")).to_be_visible()
        until(lambda: state() == "screen on")
        page.get_by_role("button", name="Stop").click()
        expect(page.get_by_role("button", name="Let the phone report its level")).to_be_visible()
        until(lambda: state() == CARD.phone_state)

    def test_a_browser_that_tells_nothing_shows_the_address_to_send_it_to(self):
        self.page.add_init_script("delete Navigator.prototype.getBattery")
        page = self.open()
        page.get_by_role("button", name="Yes", exact=True).click()
        asked = page.get_by_label("the phone on the charger")
        expect(asked).to_contain_text("This browser tells no page the battery’s level")
        address = asked.get_by_label("address").input_value()
        self.assertTrue(asked.get_by_label("line for a terminal").input_value().startswith("curl -d percent=47 http"))
        answer = self.web.post(address.removeprefix(self.address), params={"percent": 47})
        self.assertEqual(answer.json()["said"], ["battery 47 %"])
        expect(page.locator("header")).to_contain_text("47 %")
        asked.get_by_role("button", name="Done").click()
        page.reload()
        expect(page.get_by_role("button", name="Log")).to_be_visible()
        expect(asked).to_have_count(0)

    def test_what_is_typed_by_hand_is_logged_where_the_page_came_without_tls(self):
        """Such pages have no crypto.randomUUID and no clipboard."""
        self.page.add_init_script("delete Crypto.prototype.randomUUID; delete Navigator.prototype.clipboard")
        page = self.open()
        page.get_by_role("button", name="No", exact=True).click()
        for key in "47":
            page.get_by_role("button", name=key, exact=True).click()
        page.get_by_role("button", name="Log").click()
        expect(page.get_by_role("main").get_by_role("status")).to_contain_text("logged: battery 47 %")

    def test_the_lane_over_it_stops(self):
        page = self.open()
        self.begin(page)
        name = self.web.get(f"/api/lanes/{self.lane_id}").json()["view"]["name"]
        line = {"id": str(uuid.uuid4()), "line": f"{name} end void done", "sure": True}
        self.assertTrue(self.web.post("/api/bench/lines", json=line).json()["logged"])
        page.evaluate("window.step(21)")
        expect(page.get_by_text("This lane has ended.")).to_be_visible()
        until(lambda: page.evaluate("Object.keys(localStorage).filter((k) => k.includes('.level.')).length") == 0)
