"""A browser on the served application: what every test of a screen starts from."""

import base64
import os
import re
from pathlib import Path

from playwright.sync_api import expect

from tests.browser.chromium import chromium
from tests.serving import ServedTest

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
# A machine that does much else is slow, not wrong: a wait ends as soon as what it waits for is there.
PATIENCE_MS = int(os.environ.get("PATIENCE_MS", "90000"))
expect.set_options(timeout=PATIENCE_MS)

DROP = """([target, name, content]) => {
  const bytes = Uint8Array.from(atob(content), (c) => c.charCodeAt(0))
  const transfer = new DataTransfer()
  transfer.items.add(new File([bytes], name))
  for (const kind of ['dragenter', 'dragover', 'drop'])
    document.querySelector(target).dispatchEvent(
      new DragEvent(kind, {bubbles: true, cancelable: true, dataTransfer: transfer}))
}"""


class BrowserTest(ServedTest):
    let_pass = ""
    """What the console may say in a test that provokes it."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.browser = cls.enterClassContext(chromium())

    def setUp(self):
        self.errors = []
        self.page = self.browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme="light")
        self.page.set_default_timeout(PATIENCE_MS)
        self.page.on("pageerror", lambda error: self.errors.append(str(error)))
        self.page.on("console", self.heard)
        self.addCleanup(self.page.close)

    def heard(self, message):
        passes = self.let_pass and self.let_pass in message.text
        if message.type == "error" and "status of 4" not in message.text and not passes:
            self.errors.append(message.text)

    def tearDown(self):
        self.assertEqual(self.errors, [])

    def goto(self, path):
        self.page.goto(self.address + path)
        return self.page

    def answers_late(self, part, ms=1500):
        """Every call whose address holds ``part`` takes ``ms`` longer; for pages opened from now on."""
        self.page.add_init_script(
            "const fetched = window.fetch; window.fetch = (...asked) => String(asked[0]?.url ?? asked[0])"
            f".includes('{part}') ? new Promise((go) => setTimeout(go, {ms})).then(() => fetched(...asked))"
            " : fetched(...asked)"
        )

    def drop(self, target, name, content):
        content = content.encode() if isinstance(content, str) else content
        self.page.evaluate(DROP, [target, name, base64.b64encode(content).decode()])

    def choose(self, name, content):
        files = {"name": name, "mimeType": "text/csv", "buffer": content.encode()}
        self.page.get_by_label("files to read").set_input_files(files)

    def read_run(self):
        self.page.get_by_role("button", name="Read the run").click()
        expect(self.page).to_have_url(re.compile("/runs/[0-9a-f-]{36}$"))

    def says(self):
        return self.page.get_by_label("what this run says")


class Audit(BrowserTest):
    """axe-core on every screen in both themes: no serious or critical finding."""

    with_demo = True

    def setUp(self):
        super().setUp()
        # Colours are audited at rest, not half way through a transition.
        self.page.emulate_media(reduced_motion="reduce")

    def in_both_themes(self):
        for theme in ("day", "night"):
            self.goto("/runs")
            self.page.evaluate("theme => localStorage.setItem('jaunecharge.theme', theme)", theme)
            page = self.goto("/runs")
            expect(page.locator("html")).to_have_attribute("data-theme", theme)
            yield page

    def audit(self, what):
        self.assertEqual(self.serious(), [], what)

    def serious(self):
        """Serious and critical findings on the page as it stands."""
        # The page's policy runs no foreign script; the audit is evaluated from outside instead.
        self.page.evaluate(AXE.read_text())
        found = self.page.evaluate("axe.run(document, {resultTypes: ['violations']})")
        return [
            f"{v['id']}: {v['nodes'][0]['html'][:140]} {v['nodes'][0].get('failureSummary', '')[:200]}"
            for v in found["violations"]
            if v["impact"] in ("serious", "critical")
        ]
