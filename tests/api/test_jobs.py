"""Jobs over the web: listed, cancelled, tried again, taken off; equal ones shared."""

import json
import time
import uuid
from contextlib import contextmanager
from unittest import mock

from fastapi.testclient import TestClient

from jaunecharge.api.app import make_app
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.jobs.workforce import Elsewhere
from jaunecharge.store.jobs import jobs as store
from jaunecharge.store.jobs.models import Job
from jaunecharge.store.kit import add_all
from tests.serving import ServedTest

LINES = "phone Ostrel Mini 3180mAh mpp@12", "puck Cairn disc mpp claims 15W", "adapter Plug 20 20W"


class Jobs(ServedTest):
    def setUp(self):
        super().setUp()
        with self.database.session() as session:
            for table in ("jobs", "kit"):
                session.connection().exec_driver_sql(f"DELETE FROM {table}")
            add_all(session, [kit_from_line(line) for line in LINES], "")

    def put(self, state, kind="runs again", **more):
        """A job in a state, that no worker takes."""
        with self.database.session() as session:
            job = Job(kind=kind, args={"runs": [], "version": 0}, about="a thing", state=state, **more)
            session.add(job)
            session.flush()
            return job.id

    def listed(self):
        return self.web.get("/api/jobs").json()

    def cover(self):
        lines = self.web.post("/api/coverage", json={}).text.splitlines()
        return [json.loads(line) for line in lines]

    def test_by_state_with_what_each_is_and_why_it_failed(self):
        why = store.document_of(store.CannotRead("no such column", "name it"))
        self.put("failed", why=why)
        self.put("cancelled")
        self.put("running", worker="hut:1", step="reading")
        found = self.listed()
        self.assertEqual(found["counts"], {"failed": 1, "cancelled": 1, "running": 1})
        [failed] = found["failed"]
        self.assertEqual(failed["kind"], "Runs read again")
        self.assertEqual((failed["why"], failed["mend"]), ("no such column", "name it"))
        self.assertEqual([j["worker"] for j in found["running"]], ["hut:1"])
        self.assertEqual([j["state"] for j in found["ended"]], ["cancelled"])
        self.assertEqual(self.web.get("/api/rereading").json()["failed"], 1)

    def test_a_package_can_be_fetched_as_long_as_it_is_kept(self):
        lines = self.web.post("/api/packages", json={}).text.splitlines()
        package = json.loads(lines[-1])["package"]
        [job] = self.listed()["ended"]
        self.assertEqual(job["package"], package)
        self.assertEqual(self.web.get(f"/api/packages/{package}").status_code, 200)
        with self.database.session() as session:
            session.connection().exec_driver_sql("UPDATE uploads SET sent_at = now() - interval '25 hours'")
        self.web.post("/api/packages/uploads", content=b"x").raise_for_status()
        [job] = self.listed()["ended"]
        self.assertIsNone(job["package"])
        answer = self.web.get(f"/api/packages/{package}")
        self.assertEqual(answer.status_code, 404)
        self.assertIn("no longer here: make it again", answer.text)

    def test_a_table_is_made_once_and_served_from_what_was_made(self):
        first, second = self.cover(), self.cover()
        self.assertEqual(first[-1]["coverage"], second[-1]["coverage"])
        self.assertEqual(self.listed()["counts"], {"done": 1})
        with self.database.session() as session:
            add_all(session, [kit_from_line("puck Tarn disc mpp claims 15W")], "")
        self.assertEqual(len(self.cover()[-1]["coverage"]["rows"]), len(first[-1]["coverage"]["rows"]) + 1)
        self.assertEqual(self.listed()["counts"], {"done": 2})

    def test_cancelled_then_tried_again(self):
        job_id = self.put("waiting")
        cancelled = self.web.post(f"/api/jobs/{job_id}/cancelled").json()
        self.assertEqual(cancelled["state"], "cancelled")
        again = self.web.post(f"/api/jobs/{job_id}/again")
        self.assertEqual((again.status_code, again.json()["state"]), (200, "waiting"))
        end = time.monotonic() + 60
        while self.listed()["counts"] != {"done": 1} and time.monotonic() < end:
            time.sleep(0.05)
        self.assertEqual(self.listed()["counts"], {"done": 1})
        self.assertEqual(self.web.post(f"/api/jobs/{job_id}/again").status_code, 422)

    def test_taken_off_the_list_once_it_has_ended(self):
        running, failed = self.put("running"), self.put("failed")
        self.assertEqual(self.web.delete(f"/api/jobs/{running}").status_code, 422)
        self.assertEqual(self.web.delete(f"/api/jobs/{failed}").status_code, 204)
        self.assertEqual(self.listed()["counts"], {"running": 1})

    def test_one_that_is_not_there_is_said_to_be_so(self):
        for method, path in (("POST", "/cancelled"), ("POST", "/again"), ("DELETE", "")):
            self.assertEqual(self.web.request(method, f"/api/jobs/{uuid.uuid4()}{path}").status_code, 404)

    def test_where_no_worker_is_there_nobody_waits_for_one(self):
        context = make_app(self.database, self.folder / "no worker", workforce=Elsewhere())
        with (
            mock.patch("jaunecharge.api.following.NOBODY_FOR_S", 0.2),
            mock.patch("jaunecharge.api.following.store.any_worker", lambda session: False),
        ):
            web = TestClient(context, base_url="http://127.0.0.1")
            with self.kept_waiting():
                lines = web.post("/api/coverage", json={"around": {"ambient_c": 13.5}}).text.splitlines()
        last = json.loads(lines[-1])
        self.assertEqual((last["step"], last["problem"]["detail"]), ("refused", "no worker is there to do this"))

    @contextmanager
    def kept_waiting(self):
        """Whoever else takes jobs finds none."""
        with mock.patch("jaunecharge.jobs.worker.do", lambda *_: time.sleep(2)):
            yield

    def test_one_that_leaves_takes_no_table_from_another_who_waits_for_it(self):
        with self.web.stream("POST", "/api/coverage", json={"around": {"ambient_c": 12.25}}) as first:
            next(first.iter_lines())
        last = json.loads(self.web.post("/api/coverage", json={"around": {"ambient_c": 12.25}}).text.splitlines()[-1])
        self.assertEqual(last["step"], "done")
        self.assertEqual(self.listed()["counts"], {"done": 1})

    def test_a_refusal_comes_to_whoever_waits(self):
        upload = self.web.post("/api/packages/uploads?name=p.zip", content=b"no package").json()
        lines = self.web.post("/api/packages/imports", json={"upload": upload["id"]}).text.splitlines()
        last = json.loads(lines[-1])
        self.assertEqual((last["step"], last["problem"]["status"]), ("refused", 422))
        self.assertEqual(self.listed()["failed"][0]["why"], last["problem"]["detail"])
