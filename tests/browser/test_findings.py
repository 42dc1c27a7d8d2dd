"""The station of findings: from a plan to a published page, edits, out of date, another draft, both themes, keys."""

import re
import tempfile
import uuid
from pathlib import Path

from playwright.sync_api import expect
from sqlalchemy import select

from jaunecharge.demo.findings import FAN
from jaunecharge.demo.plan import LENDING, QUESTION
from jaunecharge.store.finding_models import Finding
from jaunecharge.store.models import Run
from jaunecharge.store.packages.going_out import export_package
from tests.browser.base import AXE, Audit, BrowserTest
from tests.serving import fresh_database


class Findings(BrowserTest):
    with_demo = True

    def open(self, question=QUESTION):
        page = self.goto("/findings")
        page.get_by_role("link", name=question).click()
        expect(page.get_by_role("heading", level=1, name=question)).to_be_visible()
        return page

    def test_by_its_key_the_first_finding_is_there_with_ribbons_places_and_verdicts(self):
        page = self.goto("/runs")
        expect(page.get_by_role("heading", name="Runs")).to_be_visible()
        page.keyboard.press("7")
        page.get_by_role("link", name=QUESTION).click()
        expect(page.get_by_role("heading", level=1, name=QUESTION)).to_be_visible()
        block = page.get_by_label("chargers by phone")
        expect(block.get_by_role("img").first).to_have_attribute("aria-label", re.compile("on Ostrel Max: "))
        expect(block).to_contain_text("sooner than")
        expect(page.get_by_label("claims", exact=True)).to_contain_text("not supported")

    def test_a_figure_opens_its_working_and_the_runs_that_it_is_from(self):
        page = self.open()
        answer = page.get_by_label("answer")
        answer.get_by_role("button").filter(has_text="±").first.click()
        expect(answer.get_by_role("note")).to_contain_text("degrees of freedom")
        expect(answer.get_by_role("note").get_by_role("link").first).to_have_attribute("href", re.compile("/runs/"))

    def test_words_are_edited_figures_are_not(self):
        page = self.open(FAN)
        sure = page.get_by_label("how sure")
        sure.get_by_text("2 runs").hover()
        sure.get_by_role("button", name="edit").first.click()
        field = page.get_by_label("words of the sentence")
        field.fill("Two afternoons in a room of 99 °C")
        field.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("“99” is no figure of this sentence")
        expect(field).to_have_value("Two afternoons in a room of 99 °C")
        field.fill("One afternoon in the warm bunk room")
        field.press("Enter")
        expect(sure).to_contain_text("One afternoon in the warm bunk room. edited by somebody")
        sure.get_by_text("One afternoon").hover()
        sure.get_by_role("button", name="edit").first.click()
        page.get_by_role("button", name="First wording").click()
        expect(sure).not_to_contain_text("edited by")

    def test_a_sentence_left_out_is_taken_in_again(self):
        page = self.open(LENDING)
        sure = page.get_by_label("how sure")
        sure.get_by_text("2 runs").hover()
        sure.get_by_role("button", name="leave out").first.click()
        expect(sure.get_by_role("button", name="take in again")).to_be_visible()
        page.get_by_role("status").get_by_role("button", name="Undo").click()
        expect(sure.get_by_role("button", name="take in again")).to_have_count(0)

    def test_a_question_is_answered_from_a_plan_and_published(self):
        page = self.goto("/findings")
        expect(page.get_by_role("link", name=QUESTION)).to_be_visible()
        page.keyboard.press("q")
        question = page.get_by_role("textbox", name="question")
        expect(question).to_be_focused()
        expect(question).not_to_have_value("")
        question.fill("Which disc for the small bunk room, to 80 %?")
        page.get_by_label("answered from").select_option(label=f"plan: {QUESTION}")
        question.press("Enter")
        expect(page).to_have_url(re.compile("/findings/[0-9a-f-]{36}$"))
        expect(page.get_by_role("heading", level=1, name="Which disc for the small bunk room")).to_be_visible()
        page.get_by_role("button", name="Publish").click()
        expect(page.get_by_role("group", name="publish")).to_contain_text("published")
        with page.expect_download() as download:
            page.get_by_role("button", name="Page", exact=True).click()
        html = download.value.path().read_text()
        self.assertIn("Which disc for the small bunk room, to 80 %?", html)
        self.audit_page(html)
        page.get_by_role("button", name="Delete").click()
        expect(page.get_by_role("status").filter(has_text="The finding is deleted.")).to_be_visible()

    def test_a_question_that_is_asked_before_all_has_come_is_answered(self):
        self.answers_late("/api/packs", 3000)
        page = self.goto("/findings/new?question=Which+pack+charges+faster")
        page.get_by_role("textbox", name="question").press("Enter")
        expect(page.get_by_role("button", name="Looking at what there is")).to_be_disabled()
        expect(page).to_have_url(re.compile("/findings/[0-9a-f-]{36}$"))
        expect(page.get_by_role("heading", level=1, name="Which pack charges faster")).to_be_visible()
        page.get_by_role("button", name="Delete").click()
        expect(page.get_by_role("status").filter(has_text="The finding is deleted.")).to_be_visible()

    def audit_page(self, html):
        """The published page in a browser without a network: it asks for nothing, and axe finds nothing serious."""
        context = self.browser.new_context(java_script_enabled=True, offline=True)
        page, asked = context.new_page(), []
        page.on("request", lambda r: asked.append(r.url))
        page.set_content(html)
        page.evaluate(AXE.read_text())
        found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
        serious = [v["id"] for v in found["violations"] if v["impact"] in ("serious", "critical")]
        self.assertEqual(serious, [])
        self.assertEqual([u for u in asked if not u.startswith("data:")], [])
        context.close()

    def test_from_the_plan_in_one_click_to_its_finding(self):
        page = self.goto("/plan")
        page.get_by_role("button", name="Finding").click()
        expect(page).to_have_url(re.compile("/findings/[0-9a-f-]{36}$"))
        expect(page.get_by_role("heading", level=1)).to_be_visible()

    def test_versus_and_packs_lead_to_a_question_with_their_things_chosen(self):
        page = self.goto("/packs")
        page.get_by_role("link", name="Finding", exact=True).click()
        expect(page.get_by_role("checkbox", name="Cornice slim 20")).to_be_checked()
        page = self.goto("/versus")
        page.locator("[data-first]").click()
        page.get_by_role("link", name="Finding", exact=True).click()
        expect(page.get_by_label("answered from")).to_contain_text("as compared in Versus")

    def test_a_corrected_run_makes_it_out_of_date_until_it_is_drafted_again(self):
        page = self.open(FAN)
        run = self.web.get(f"/api/findings/{page.url.rpartition('/')[2]}").json()["draft"]["blocks"][0]["rows"][0][
            "runs"
        ][0]
        read = self.web.get(f"/api/runs/{run}").json()
        for case in ("thick case", "none"):
            read = self.web.get(f"/api/runs/{run}").json()
            self.web.patch(
                f"/api/runs/{run}", json={"revision": read["revision"], "factors": {**read["factors"], "case": case}}
            )
            page.reload()
            expect(page.get_by_label("out of date")).to_contain_text("was corrected")
            page.get_by_role("button", name="Draft again").click()
            expect(page.get_by_label("out of date")).to_have_count(0)

    def test_advice_follows_who_asks(self):
        page = self.open()
        advice = page.get_by_label("advice")
        advice.get_by_label("a phone that takes").select_option("12 W, magnetic")
        advice.get_by_label("no fan").check()
        expect(advice).to_contain_text("left out, with a fan: Serac dock 15")
        advice.get_by_label("budget").fill("3")
        expect(advice).to_contain_text("none of those compared suits")

    def test_claims_are_typed_and_checked(self):
        page = self.open(LENDING)
        page.get_by_role("button", name="question, claims, disclosure").click()
        page.get_by_label("claim 1 is of").fill("Col bank 10")
        page.get_by_label("claim 1", exact=True).fill("never over 30 °C")
        page.get_by_role("button", name="Save and draft again").click()
        expect(page.get_by_label("claims", exact=True)).to_contain_text("“never over 30 °C”")

    def test_a_slow_answer_is_not_waited_for_and_nothing_typed_is_lost(self):
        question = "Which dock on a slow evening?"
        plan = next(p for p in self.web.get("/api/plans").json() if p["question"] == QUESTION)
        self.web.post("/api/findings", json={"question": question, "plan": plan["id"]}).raise_for_status()
        self.answers_late("/api/")
        page = self.open(question)
        page.get_by_role("button", name="question, claims, disclosure").click()
        page.get_by_label("claim 1", exact=True).fill("cool to the touch")
        page.get_by_label("for whom").select_option(label="an engineer")
        expect(page.get_by_label("for whom")).to_have_value("engineer")
        # The second is begun while the first is still on its way.
        for part, words in (("how sure", "Made on a quiet day"), ("not shown", "Nothing was left open")):
            part = page.get_by_label(part)
            part.locator(".group").first.hover()
            part.get_by_role("button", name="edit").first.click()
            part.get_by_label("words of the sentence").fill(words)
            part.get_by_label("words of the sentence").press("Enter")
        for part, words in (("how sure", "Made on a quiet day"), ("not shown", "Nothing was left open")):
            expect(page.get_by_label(part)).to_contain_text(f"{words}. edited by somebody")
        expect(page.get_by_label("words of the sentence")).to_have_count(0)
        expect(page.get_by_label("claim 1", exact=True)).to_have_value("cool to the touch")
        page.reload()
        expect(page.get_by_label("for whom")).to_have_value("engineer")
        expect(page.get_by_label("how sure")).to_contain_text("Made on a quiet day")

    def test_a_link_is_made_opened_and_taken_back(self):
        page = self.open(FAN)
        page.get_by_role("button", name="Share").click()
        dialog = page.get_by_role("dialog", name="share by a link")
        dialog.get_by_role("button", name="Make a link").click()
        url = dialog.get_by_label("link").input_value()
        stranger = self.browser.new_page()
        self.addCleanup(stranger.close)
        asked = []
        stranger.on("request", lambda request: asked.append(request.url))
        stranger.goto(url)
        expect(stranger.get_by_role("heading", level=1, name=FAN)).to_be_visible()
        self.assertEqual([a for a in asked if not a.startswith("data:")], [url])
        dialog.get_by_role("button", name="Take it back").click()
        expect(dialog.get_by_role("button", name="Make a link")).to_be_visible()
        stranger.reload()
        expect(stranger.get_by_role("heading", name="This link shows nothing, or no longer")).to_be_visible()

    def test_a_stranger_s_package_comes_in_with_its_finding_and_what_differs_is_asked(self):
        """Made on another bench of the same demonstration, where somebody renamed a phone; a broken one is refused."""
        with tempfile.TemporaryDirectory() as folder, fresh_database(with_demo=True) as other:
            package, broken = Path(folder) / "theirs.zip", Path(folder) / "broken.zip"
            with other.session() as session:
                mine = session.scalars(select(Finding).where(Finding.question == FAN)).one()
                mine.id, mine.question = uuid.uuid4(), "Which dock do strangers like?"
                mine.document = mine.document.model_copy(update={"question": mine.question})
                run = session.get_one(Run, mine.document.runs[0])
                run.label, run.revision, changed = "a stranger's run", run.revision + 1, run.label
            export_package(other, package)
            broken.write_bytes(package.read_bytes()[:5000])
            page = self.goto("/findings")
            page.get_by_label("data package to import").set_input_files(broken)
            expect(page.get_by_role("alert").filter(has_text="no data package")).to_be_visible()
            page.get_by_label("data package to import").set_input_files(package)
            asked = page.get_by_role("alert", name="changed here and there")
            expect(asked).to_contain_text(changed)
            expect(page.get_by_role("link", name="Which dock do strangers like?")).to_be_visible()
            asked.get_by_role("button", name="Take theirs").click()
            expect(asked).to_have_count(0)
            page.get_by_role("link", name="Which dock do strangers like?").click()
            expect(page.get_by_label("chargers by phone")).to_contain_text("Serac dock 15")
        with self.database.session() as session:
            taken = session.scalars(select(Run).where(Run.label == "a stranger's run")).one()
            self.assertTrue(taken.summary.ribbon.watts)


class AuditOfFindings(Audit):
    def test_every_screen_in_both_themes(self):
        for page in self.in_both_themes():
            page = self.goto("/findings")
            expect(page.get_by_role("heading", level=1, name=QUESTION)).to_be_visible()
            self.audit("finding")
            page.get_by_role("button", name="Share").click()
            expect(page.get_by_role("button", name="Make a link")).to_be_visible()
            self.audit("share")
            page.keyboard.press("Escape")
            page.get_by_role("button", name="question, claims, disclosure").click()
            expect(page.get_by_label("claim 1", exact=True)).to_be_visible()
            self.audit("what it asks")
            page = self.goto("/findings/new")
            expect(page.get_by_role("heading", name="New question")).to_be_visible()
            self.audit("new question")
