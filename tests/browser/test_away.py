"""The pages on a phone that can be installed: they open to what they last showed when the bench is away, and say so."""

import json
import socket
import threading
import urllib.request

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


class Away(BrowserTest):
    """A bench that goes away and comes back: between it and the browser stands what can be cut."""

    with_demo = True
    let_pass = "ERR_"

    def setUp(self):
        super().setUp()
        self.cut = threading.Event()
        self.door = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(self.door.close)
        self.address_of_door = f"http://127.0.0.1:{self.door.getsockname()[1]}"
        host, _, port = self.address.removeprefix("http://").partition(":")
        self.behind = (host, int(port))
        threading.Thread(target=self.serve, daemon=True).start()

    def serve(self):
        while True:
            try:
                near, _ = self.door.accept()
            except OSError:
                return
            if self.cut.is_set():
                near.close()
                continue
            far = socket.create_connection(self.behind)
            for a, b in ((near, far), (far, near)):
                threading.Thread(target=self.pass_on, args=(a, b), daemon=True).start()

    def pass_on(self, a, b):
        a.settimeout(0.2)
        while not self.cut.is_set():
            try:
                block = a.recv(65536)
            except TimeoutError:
                continue
            except OSError:
                break
            if not block:
                break
            try:
                b.sendall(block)
            except OSError:
                break
        for end in (a, b):
            end.close()

    def open(self, path):
        self.page.goto(self.address_of_door + path)
        return self.page

    def test_it_opens_to_what_it_last_showed_and_says_so(self):
        page = self.open("/runs")
        row = page.get_by_role("listitem").first
        row.locator("svg").wait_for()
        page.wait_for_timeout(300)
        first = row.text_content()
        page.wait_for_function("navigator.serviceWorker.ready.then((r) => Boolean(r.active))")
        self.open("/runs")
        row.get_by_role("link").click()
        expect(self.says()).to_be_visible()
        said, run = self.says().inner_text(), page.url.removeprefix(self.address_of_door)
        page.wait_for_timeout(500)
        self.cut.set()
        self.open("/runs")
        expect(page.get_by_text("The bench does not answer.")).to_be_visible()
        expect(row).to_have_text(first)
        self.open(run)
        self.assertEqual(self.says().inner_text(), said)
        # What was never shown cannot be.
        self.open("/plan/cards")
        expect(page.get_by_text("the application does not answer")).to_be_visible()
        self.cut.clear()
        self.open("/plan/cards")
        expect(page.get_by_text("The bench does not answer.")).to_have_count(0)
        expect(page.get_by_text("From ten to full").first).to_be_visible()

    def test_back_again_the_notice_goes_by_itself(self):
        page = self.open("/findings")
        page.get_by_role("link", name="Which disc").first.wait_for()
        page.wait_for_function("navigator.serviceWorker.ready.then((r) => Boolean(r.active))")
        self.open("/findings")
        page.get_by_role("link", name="Which disc").first.wait_for()
        page.wait_for_timeout(500)
        self.cut.set()
        self.open("/findings")
        expect(page.get_by_text("The bench does not answer.")).to_be_visible()
        self.cut.clear()
        expect(page.get_by_text("The bench does not answer.")).to_have_count(0)

    def test_it_can_be_installed(self):
        page = self.open("/runs")
        href = page.locator("link[rel=manifest]").get_attribute("href")
        with urllib.request.urlopen(self.address_of_door + href) as answer:
            manifest = json.load(answer)
        self.assertEqual((manifest["display"], manifest["start_url"]), ("standalone", "/"))
        sizes = set()
        for icon in manifest["icons"]:
            with urllib.request.urlopen(self.address_of_door + icon["src"]) as answer:
                self.assertEqual(answer.headers["Content-Type"].split(";")[0], icon["type"])
                self.assertTrue(answer.read())
            sizes.add(icon["sizes"])
        self.assertLessEqual({"192x192", "512x512"}, sizes)
        found = page.context.new_cdp_session(page).send("Page.getInstallabilityErrors")["installabilityErrors"]
        self.assertEqual([e["errorId"] for e in found if e["errorId"] != "in-incognito"], [])
