"""Every screen on a phone, on a tablet and on a desk, by day and by night: nothing sticks out, a finger hits each
control, and axe finds nothing serious."""

import uuid

from playwright.sync_api import expect

from tests.browser.base import Audit

WIDTHS = {390: 844, 820: 1180, 1280: 800}
THEMES: dict[int, tuple[str, ...]] = {390: ("night",), 820: (), 1280: ()}
"""Audited in each width; on a desk each screen is, in both, among its own tests."""

PAGES = (
    "/shelf", "/shelf/kit", "/plan", "/plan/new", "/plan/cards", "/bench", "/bench/new", "/bench/spot", "/bench/checks",
    "/runs", "/runs/read", "/runs/heat", "/runs/spot", "/runs/simulated", "/versus", "/versus/table", "/packs",
    "/packs/charges", "/packs/plan", "/findings", "/findings/new", "/people", "/jobs",
)  # fmt: skip
FINGER_PX = 44

OVERFLOW = """() => {
  const main = document.querySelector('main'), root = document.documentElement, wide = root.clientWidth
  const out = []
  if (root.scrollWidth > wide) out.push(`the page by ${root.scrollWidth - wide} px`)
  if (main.scrollWidth > main.clientWidth) out.push(`its main part by ${main.scrollWidth - main.clientWidth} px`)
  const within = (e) => {
    for (let p = e.parentElement; p && p !== main; p = p.parentElement)
      if (['auto', 'scroll', 'hidden', 'clip'].includes(getComputedStyle(p).overflowX)) return true
    return false
  }
  for (const e of main.querySelectorAll('*')) {
    const r = e.getBoundingClientRect()
    if (r.width > 0 && r.right > wide + 1 && !within(e)) out.push(`${e.tagName} ${e.textContent.slice(0, 30)}`)
  }
  return out.slice(0, 5)
}"""

SMALL = """(least) => {
  const main = document.querySelector('main'), out = []
  const controls = 'button, select, textarea, input:not([type=file]):not([type=hidden]), a.btn, nav a, summary'
  for (const e of document.querySelectorAll(controls)) {
    const style = getComputedStyle(e)
    // A link or a button in a line of text is as high as its line (WCAG 2.2, 2.5.8: inline).
    if (style.display === 'inline' || e.classList.contains('underline') || e.closest('p')) continue
    if (e.closest('svg, [popover]:not(:popover-open), dialog:not([open]), .sr-only')) continue
    const r = e.getBoundingClientRect()
    if (r.width === 0 || style.visibility === 'hidden') continue
    const label = e.closest('label')
    const box = label ? label.getBoundingClientRect() : r
    const after = getComputedStyle(e, '::after')
    const high = Math.max(box.height, after.content === '""' ? parseFloat(after.height) || 0 : 0)
    const said = `${String(e.className).slice(0, 50)} ${e.textContent.slice(0, 24)}`
    if (high < least - 0.5) out.push(`${e.tagName}.${said} ${Math.round(high)} px`)
  }
  return out.slice(0, 6)
}"""


class Narrow(Audit):
    maxDiff = None

    def setUp(self):
        super().setUp()
        factors = {"phone": "Ostrel Mini", "charger": "Cairn disc 15", "adapter": "Plug 20"}
        bodies = {"factors": factors, "practice": 60, "ambient_c": 24.0}, {"factors": factors | {"phone": "Ostrel Max"}}
        self.lanes = [self.web.post("/api/lanes", json=body).json()["view"]["id"] for body in bodies]
        self.web.post(f"/api/lanes/{self.lanes[0]}/placed")

    def tearDown(self):
        for lane in self.lanes:
            ended = {"id": str(uuid.uuid4()), "outcome": "void", "reason": "looked at"}
            self.web.post(f"/api/lanes/{lane}/ended", json=ended)
        super().tearDown()

    def shown(self, path):
        page = self.goto(path)
        page.locator("main h1, main h2").first.wait_for()
        expect(page.get_by_text("…", exact=False).filter(has_text="Reading the")).to_have_count(0)
        page.wait_for_timeout(300)
        if "runs=" in path:
            page.locator("[data-row]").first.wait_for()
        return page

    def paths(self):
        run = next(r for r in self.web.get("/api/runs").json() if "Larch" in r["label"])["id"]
        plan = self.web.get("/api/plans").json()[0]["id"]
        offered = self.web.get("/api/versus/offered").json()[0]["runs"]
        compared = "runs=" + ",".join(offered)
        finding = self.web.get("/api/findings").json()[0]["id"]
        seen = (f"/versus?{compared}&see={tab}" for tab in ("curves", "effects", "value", "claim", "phone"))
        return (*PAGES, f"/runs/{run}", f"/plan/{plan}/change", f"/versus?{compared}", *seen, f"/findings/{finding}",
                f"/plan/{plan}?list", f"/plan/{plan}?lanes", *(f"/bench?lane={x}" for x in "AB"),
                )  # fmt: skip

    def of_width(self, width):
        page, wrong = self.page, []
        page.set_viewport_size({"width": width, "height": WIDTHS[width]})
        for path in self.paths():
            self.shown(path)
            wrong += [f"{path}: {x}" for x in page.evaluate(OVERFLOW)]
            if width == 390:
                wrong += [f"{path}: {x}" for x in page.evaluate(SMALL, FINGER_PX)]
            for theme in THEMES[width]:
                page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme)
                wrong += [f"{path}, {theme}: {x}" for x in self.serious()]
        self.assertEqual(wrong, [])

    def test_on_a_phone(self):
        self.of_width(390)

    def test_on_a_tablet(self):
        self.of_width(820)

    def test_on_a_desk(self):
        self.of_width(1280)
