"""Signing in, and who did what, as people see it."""

import re

from playwright.sync_api import expect

from jaunecharge.store import people
from tests.browser.base import BrowserTest
from tests.serving import ON_THE_NETWORK, PASSPHRASE


class People(BrowserTest):
    let_pass = "status of 403"
    network = ON_THE_NETWORK

    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            people.add_person(session, "Ada", "change", PASSPHRASE)

    def sign_in(self, name, passphrase):
        page = self.goto("/bench")
        expect(page.get_by_label("your name")).to_be_focused()
        page.get_by_label("your name").fill(name)
        page.get_by_label("passphrase").fill(passphrase)
        page.keyboard.press("Enter")
        return page

    def test_somebody_is_added_looks_and_is_removed(self):
        page = self.sign_in("Ada", "not the right one")
        expect(page.get_by_role("alert")).to_contain_text("do not belong together")
        page.get_by_label("passphrase").fill(PASSPHRASE)
        page.keyboard.press("Enter")
        page.get_by_role("link", name="Ada").click()
        page.get_by_label("name", exact=True).fill("Ben")
        page.get_by_label(re.compile("^passphrase")).fill("lamps to look at")
        page.get_by_label("may only look").check()
        page.get_by_role("button", name="Add person").click()
        expect(page.get_by_role("listitem").filter(has_text="may look")).to_contain_text("Ben")
        for line in ("Let somebody sign in Ben", "Try to sign in, with a wrong passphrase Ada", "Ada Sign in"):
            expect(page.get_by_role("row", name=re.compile(line, re.IGNORECASE)).first).to_be_visible()
        page.get_by_role("button", name="Sign out", exact=True).click()
        page.wait_for_url("**/sign-in")
        self.sign_in("ben", "lamps to look at")
        expect(page.get_by_role("link", name="Ben may look")).to_be_visible()
        page.keyboard.press("4")
        page.wait_for_url("**/runs")
        page.get_by_role("link", name="Ben may look").click()
        expect(page.get_by_role("button", name="Remove Ben")).to_have_count(0)
        page.get_by_role("button", name="Sign out everywhere").click()
        page.wait_for_url("**/sign-in")
        self.sign_in("Ada", PASSPHRASE)
        page.get_by_role("link", name="Ada").click()
        page.once("dialog", lambda dialog: dialog.accept())
        page.get_by_role("button", name="Remove Ben").click()
        expect(page.get_by_role("button", name="Remove Ben")).to_have_count(0)


class OnThisMachine(BrowserTest):
    def test_the_log_is_there_without_a_sign_in(self):
        page = self.goto("/people")
        expect(page.get_by_text("Nothing was done yet.")).to_be_visible()
        self.web.post("/api/lanes", json={"factors": {"phone": "one"}}, headers={"Jaunecharge-By": "Cleo"})
        page.reload()
        expect(page.get_by_role("row", name=re.compile("Cleo Open a lane"))).to_be_visible()
        expect(page.get_by_role("button", name="Sign out")).to_have_count(0)
