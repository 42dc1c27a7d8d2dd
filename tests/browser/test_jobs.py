"""The page of jobs: what has failed and why, tried again, cancelled; the line in the header that leads to it."""

import datetime as dt

from playwright.sync_api import expect

from jaunecharge.store.jobs import jobs as store
from jaunecharge.store.jobs.models import Job
from tests.browser.base import BrowserTest
from tests.patience import until


class Jobs(BrowserTest):
    def put(self, state, **more):
        with self.database.session() as session:
            job = Job(kind="runs again", args={"runs": [], "version": 0}, about="Cairn disc, 2nd", state=state, **more)
            session.add(job)
            session.flush()
            return job.id

    def tearDown(self):
        with self.database.session() as session:
            session.connection().exec_driver_sql("DELETE FROM jobs")
        super().tearDown()

    def test_one_that_failed_is_told_on_every_page_and_tried_again(self):
        self.put("failed", why=store.document_of(RuntimeError("the disk is full")), ended_at=dt.datetime.now(dt.UTC))
        page = self.goto("/runs")
        page.get_by_role("link", name="1 job failed").click()
        failed = page.get_by_role("region", name="Failed")
        expect(failed).to_contain_text("RuntimeError: the disk is full")
        failed.get_by_role("button", name="Try again").click()
        expect(page.get_by_role("region", name="Over, in the last 24 hours")).to_contain_text("Cairn disc, 2nd")
        expect(failed).to_have_count(0)

    def test_one_that_runs_shows_how_far_it_is_and_is_cancelled(self):
        job_id = self.put("running", step="reading", fraction=0.4, worker="hut:7", began_at=dt.datetime.now(dt.UTC))
        page = self.goto("/jobs")
        running = page.get_by_role("region", name="Running")
        expect(running).to_contain_text("reading, 40 %")
        expect(running.get_by_role("progressbar")).to_have_attribute("value", "0.4")
        running.get_by_role("button", name="Cancel").click()
        expect(running.get_by_role("button", name="Cancel")).to_be_disabled()
        until(lambda: self.cancelled(job_id))

    def cancelled(self, job_id):
        with self.database.session() as session:
            return store.get_job(session, job_id).cancelled

    def test_a_failed_one_is_removed(self):
        self.put("failed", why=store.document_of(store.CannotRead("no such column", "name it")))
        page = self.goto("/jobs")
        expect(page.get_by_text("no such column; name it")).to_be_visible()
        page.get_by_role("button", name="Remove").click()
        expect(page.get_by_role("region", name="Failed")).to_have_count(0)

    def test_with_none_it_says_so(self):
        page = self.goto("/jobs")
        expect(page.get_by_text("Nothing runs just now.")).to_be_visible()
        expect(page.get_by_role("link", name="job failed")).to_have_count(0)
