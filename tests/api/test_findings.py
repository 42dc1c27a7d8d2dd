"""Findings through the API: drawn up from a plan, edited, out of date, drawn up again, left and brought back."""

import html
import uuid
from urllib.parse import urlsplit

import httpx

from jaunecharge.demo.findings import FAN
from jaunecharge.demo.plan import QUESTION
from jaunecharge.store import people
from tests.api.test_runs import ApiTest
from tests.serving import ON_THE_NETWORK, PASSPHRASE

LOOKING = "lamps to look at"


class FindingsTest(ApiTest):
    with_demo = True

    def setUp(self):
        super().setUp()
        self.listed = self.web.get("/api/findings").json()
        self.id = next(f["id"] for f in self.listed if f["question"] == QUESTION)
        self.fan = next(f["id"] for f in self.listed if f["question"] == FAN)

    def shown(self, finding=None):
        answer = self.web.get(f"/api/findings/{finding or self.id}")
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def call(self, method, path, status=200, finding=None, **body):
        found = self.shown(finding)
        body.setdefault("revision", found["revision"])
        answer = self.web.request(method, f"/api/findings/{finding or self.id}/{path}", json=body)
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()

    def new(self, question="Which disc is fastest?", **facts):
        answer = self.web.post("/api/findings", json={"question": question, **facts}, headers={"Jaunecharge-By": "Ana"})
        self.assertEqual(answer.status_code, 201, answer.text)
        return answer.json()


class Drawn(FindingsTest):
    def test_the_demonstration_has_a_tie_an_unmet_claim_a_poor_pack_a_caution_and_an_open_question(self):
        draft = self.shown()["draft"]
        self.assertTrue(any(" to " in r["place"] for b in draft["blocks"] for r in b["rows"]))
        claims = {(c["about"], c["claim"]): c["found"] for c in draft["claims"]}
        self.assertEqual(claims["Moraine magnet pad", "15 W"], "not supported")
        self.assertEqual(claims["Moraine trail 27", "100 W"], "not supported")
        self.assertTrue(any("less than it promises" in s["words"] for s in draft["packs"]))
        self.assertTrue(draft["cautions"] and draft["foreign"])
        self.assertTrue(any("Next, run" in s["words"] for s in draft["next"]))
        lending = next(f for f in self.listed if f["question"].startswith("Which of the two magnetic packs"))
        self.assertIn("to come", lending["state"])
        self.assertFalse(any(f["stale"] for f in self.listed))

    def test_one_charger_with_its_fan_and_without_is_compared(self):
        rows = self.shown(self.fan)["draft"]["blocks"][0]["rows"]
        self.assertEqual({r["label"] for r in rows}, {"Serac dock 15", "Serac dock 15, own fan"})

    def test_runs_of_rows_have_their_ribbons(self):
        found = self.shown()
        ribbons = {r["id"]: r["ribbon"] for r in found["runs"]}
        for block in found["draft"]["blocks"]:
            for row in block["rows"]:
                self.assertTrue(ribbons[row["runs"][0]]["watts"])
        self.assertEqual(found["tiers"], ["15 W, magnetic", "15 W", "12 W, magnetic"])

    def test_a_new_one_from_runs_takes_the_packs_that_they_charged_from(self):
        runs = [r["id"] for r in self.web.get("/api/runs").json() if r["factors"]["charger"] == "Col bank 10"]
        made = self.new(runs=runs, audience="engineer")
        self.assertEqual(made["asked"]["packs"], ["Col bank 10"])
        self.assertEqual(made["drawn_by"], "Ana")
        self.assertEqual(self.web.delete(f"/api/findings/{made['id']}").status_code, 204)

    def test_what_cannot_be_asked_is_refused(self):
        for facts, status in (
            ({"question": "  "}, 422), ({"question": "x" * 400}, 422), ({"question": "=1+1"}, 422),
            ({"question": "<script>x"}, 422), ({"question": "a?", "plan": str(uuid.uuid4())}, 404),
            ({"question": "a?", "runs": [str(uuid.uuid4())]}, 404), ({"question": "a?", "audience": "all"}, 422),
            ({"question": "a?", "claims": [{"about": "x", "text": "y\x00"}]}, 400), ({}, 422),
        ):  # fmt: skip
            answer = self.web.post("/api/findings", json=facts)
            self.assertEqual(answer.status_code, status, (facts, answer.text))
        self.assertEqual(self.web.get(f"/api/findings/{uuid.uuid4()}").status_code, 404)

    def test_claims_of_hostile_words_are_told_as_nothing(self):
        texts = ["9" * 290 + " W", "1e999 %", "<b>30 % faster</b>", "=cmd|x", "\u202e30 % faster", "∞ W", "* [9 W] *"]
        made = self.new(claims=[{"about": "[Disc]*", "text": t} for t in texts])
        self.assertEqual({c["found"] for c in made["draft"]["claims"]}, {"cannot be told"})
        for c in made["draft"]["claims"]:
            self.assertNotIn("[", c["sentence"]["words"])
        self.web.delete(f"/api/findings/{made['id']}")


class Edited(FindingsTest):
    def answer_of(self, found):
        return next(s for s in found["draft"]["answer"] if len(s["figures"]) > 1)

    def test_words_change_figures_stay_and_the_first_wording_is_kept(self):
        sentence = self.answer_of(self.shown())
        figures = " ".join(f"[{f['text']}]" for f in sentence["figures"])
        found = self.call("PUT", "words", key=sentence["key"], words=f"In short: {figures}")
        worded = next(w for w in found["worded"] if w["key"] == sentence["key"])
        self.assertEqual((worded["words"], worded["first"]), (f"In short: {figures}", sentence["words"]))
        refused = self.call("PUT", "words", 422, key=sentence["key"], words=f"In 5 min: {figures}")
        self.assertIn("“5” is no figure of this sentence", refused["detail"])
        found = self.call("PUT", "words", key=sentence["key"], words=None)
        self.assertEqual(found["worded"], [])
        self.call("PUT", "words", 404, key="no such", words="x")

    def test_a_sentence_is_left_out_and_taken_in_but_no_caution(self):
        found = self.shown()
        key, caution = found["draft"]["method"][0]["key"], found["draft"]["cautions"][0]["key"]
        left = self.call("PUT", "left-out", key=key, left_out=True)
        self.assertTrue(next(w for w in left["worded"] if w["key"] == key)["left_out"])
        self.assertEqual(self.call("PUT", "left-out", key=key, left_out=False)["worded"], [])
        self.assertIn("cautions stay", self.call("PUT", "left-out", 422, key=caution, left_out=True)["detail"])

    def test_of_two_windows_the_later_is_told(self):
        key, before = self.shown()["draft"]["method"][0]["key"], self.shown()["revision"]
        self.call("PUT", "left-out", key=key, left_out=True)
        self.call("PUT", "left-out", 409, key=key, left_out=False, revision=before)
        self.call("PUT", "left-out", key=key, left_out=False)

    def test_published_and_taken_back(self):
        found = self.call("PUT", "published", published=True)
        self.assertIsNotNone(found["published_at"])
        self.assertIsNone(self.call("PUT", "published", published=False)["published_at"])

    def test_deleted_and_brought_back(self):
        self.assertEqual(self.web.delete(f"/api/findings/{self.fan}").status_code, 204)
        self.assertEqual(self.web.get(f"/api/findings/{self.fan}").status_code, 404)
        self.assertNotIn(self.fan, [f["id"] for f in self.web.get("/api/findings").json()])
        self.assertIn(self.fan, [f["id"] for f in self.web.get("/api/findings", params={"deleted": True}).json()])
        self.assertEqual(self.web.post(f"/api/findings/{self.fan}/restored").status_code, 200)


class OutOfDate(FindingsTest):
    def correct(self, run_id, **factors):
        run = self.web.get(f"/api/runs/{run_id}").json()
        body = {"revision": run["revision"], "factors": {**run["factors"], **factors}}
        answer = self.web.patch(f"/api/runs/{run_id}", json=body, headers={"Jaunecharge-By": "Ben"})
        self.assertEqual(answer.status_code, 200, answer.text)
        return run

    def test_a_corrected_run_is_named_and_edited_words_come_back_with_their_sentence(self):
        row = self.shown(self.fan)["draft"]["blocks"][0]["rows"][0]
        sentence = row["verdict"]
        figures = " ".join(f"[{f['text']}]" for f in sentence["figures"])
        self.call("PUT", "words", finding=self.fan, key=sentence["key"], words=f"Mine: {figures}")
        self.correct(row["runs"][0], case="thick case")
        changed = self.shown(self.fan)["changed"]
        self.assertEqual([c["run"] for c in changed], [row["runs"][0]])
        self.assertIn("corrected by Ben", changed[0]["said"])
        self.assertTrue(next(f for f in self.web.get("/api/findings").json() if f["id"] == self.fan)["stale"])
        drawn = self.call("POST", "draft", finding=self.fan)
        self.assertEqual((drawn["changed"], [b["rows"] for b in drawn["draft"]["blocks"]]), ([], [[], []]))
        self.correct(row["runs"][0], case="none")
        self.call("POST", "draft", finding=self.fan)
        worded = next(w for w in self.shown(self.fan)["worded"] if w["key"] == sentence["key"])
        self.assertEqual((worded["words"], worded["waiting"]), (f"Mine: {figures}", ""), "its sentence says the same")

    def test_a_deleted_run_and_the_plan_going_on_are_told(self):
        run = self.shown()["draft"]["blocks"][0]["rows"][0]["runs"][0]
        self.assertEqual(self.web.delete(f"/api/runs/{run}").status_code, 204)
        self.assertIn("was deleted", self.shown()["changed"][0]["said"])
        self.web.post(f"/api/runs/{run}/restored")
        self.assertEqual(self.shown()["changed"], [])

    def test_words_whose_sentence_changed_wait_until_somebody_chooses(self):
        found = self.new("Which takes least?", runs=[r["id"] for r in self.shown()["runs"]])
        blocks = found["draft"]["blocks"]
        n = next(n for n, b in enumerate(blocks) if any(len(r["runs"]) > 1 for r in b["rows"]))
        sentence = found["draft"]["method"][n]
        edited = self.call("PUT", "words", finding=found["id"], key=sentence["key"], words="All in one bunk room")
        self.assertEqual(edited["worded"][0]["waiting"], "")
        gone = {r for row in blocks[n]["rows"] for r in row["runs"][1:]}
        runs = [r for r in edited["asked"]["runs"] if r not in gone]
        asked = {**edited["asked"], "runs": runs, "revision": edited["revision"]}
        answer = self.web.put(f"/api/findings/{found['id']}", json=asked)
        self.assertEqual(answer.status_code, 200, answer.text)
        waiting = next((w for w in answer.json()["worded"] if w["key"] == sentence["key"]), None)
        self.assertIsNotNone(waiting)
        self.assertEqual(waiting["waiting"], "All in one bunk room")
        self.assertNotEqual(waiting["words"], "All in one bunk room", "until then the new draft counts")
        kept = self.call("PUT", "words", finding=found["id"], key=sentence["key"], words=waiting["waiting"])
        self.assertEqual([w["waiting"] for w in kept["worded"]], [""])
        self.web.delete(f"/api/findings/{found['id']}")


class Advised(FindingsTest):
    def test_by_tier_budget_place_and_fan(self):
        def told(**asker):
            answer = self.web.get(f"/api/findings/{self.id}/advice", params=asker)
            self.assertEqual(answer.status_code, 200, answer.text)
            return answer.json()["lines"]

        self.assertEqual(len(told()), 3)
        mini = told(tier="12 W, magnetic", quiet=True)
        self.assertIn("with a fan: Serac dock 15, own fan", mini[0]["basis"])
        self.assertIn("none of those compared suits", told(tier="15 W", budget=3)[0]["words"])
        self.assertTrue(any("Col bank 10" in s["words"] for s in told(where="on the way")))
        self.assertEqual(self.web.get(f"/api/findings/{self.id}/advice", params={"budget": "nan"}).status_code, 422)


class Shared(FindingsTest):
    """A link without signing in, while the application listens on the network."""

    network = ON_THE_NETWORK

    @classmethod
    def fill(cls):
        super().fill()
        with cls.database.session() as session:
            people.add_person(session, "bench", "change", PASSPHRASE)
            people.add_person(session, "Ben", "look", LOOKING)

    def setUp(self):
        self.assertEqual(self.web.post("/api/sign-in", json={"name": "", "passphrase": PASSPHRASE}).status_code, 204)
        super().setUp()
        self.stranger = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        self.addCleanup(self.web.delete, f"/api/findings/{self.id}/link")

    def shared(self):
        answer = self.web.put(f"/api/findings/{self.id}/link")
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json(), urlsplit(answer.json()["url"]).path

    def test_whoever_has_the_link_reads_that_finding_and_nothing_else(self):
        self.assertEqual(self.web.get(f"/api/findings/{self.id}/link").json()["url"], "")
        link, path = self.shared()
        self.assertEqual(self.shared()[1], path, "asked twice, it is the same link")
        self.assertTrue(link["url"].startswith("http"))
        self.assertIn("Not encrypted", link["note"])
        seen = self.stranger.get(path)
        self.assertEqual(seen.status_code, 200)
        self.assertIn(html.escape(self.shown()["draft"]["answer"][0]["words"].split("*")[0].strip()), seen.text)
        self.assertEqual(seen.headers["cache-control"], "no-store")
        self.assertIn("default-src 'none'", seen.headers["content-security-policy"])
        self.assertIn("sandbox", seen.headers["content-security-policy"])
        self.assertNotRegex(seen.text, r"<script|href=\"(?!#|data:)|src=\"(?!data:)")
        token = path.rpartition("/")[2]
        for other in (
            f"/api/findings/{self.id}",
            "/api/findings",
            f"/api/findings/{self.id}/files/report.pdf",
            "/api/runs",
        ):
            with self.subTest(other):
                self.assertEqual(
                    self.stranger.get(other, headers={"Authorization": f"Bearer {token}"}).status_code, 401
                )
        for method in ("POST", "PUT", "DELETE"):
            self.assertIn(self.stranger.request(method, path).status_code, (404, 405))

    def test_a_link_that_was_taken_back_shows_nothing_and_the_next_is_another(self):
        _, path = self.shared()
        self.assertEqual(self.stranger.get(path).status_code, 200)
        self.assertEqual(self.web.delete(f"/api/findings/{self.id}/link").status_code, 204)
        gone = self.stranger.get(path)
        self.assertEqual((gone.status_code, "no longer" in gone.text), (404, True))
        again = self.shared()[1]
        self.assertNotEqual(again, path)
        self.assertEqual(self.stranger.get(path).status_code, 404)
        self.assertEqual(self.stranger.get(again).status_code, 200)

    def test_a_finding_that_is_laid_aside_is_not_shown_until_it_is_back(self):
        _, path = self.shared()
        self.assertEqual(self.web.delete(f"/api/findings/{self.id}").status_code, 204)
        self.assertEqual(self.stranger.get(path).status_code, 404)
        self.web.post(f"/api/findings/{self.id}/restored")
        self.assertEqual(self.stranger.get(path).status_code, 200)

    def test_guesses_show_nothing(self):
        self.shared()
        for guess in ("x", "%00", "a" * 100, "a" * 101, self.id):
            with self.subTest(guess):
                self.assertIn(self.stranger.get(f"/shared/{guess}").status_code, (404, 400, 422))

    def test_words_that_are_edited_are_shown(self):
        _, path = self.shared()
        key = self.shown()["draft"]["answer"][0]["key"]
        first = self.shown()["draft"]["answer"][0]["words"]
        self.call("PUT", "words", key=key, words=f"Mind you: {first}")
        self.assertIn("Mind you:", self.stranger.get(path).text)

    def test_who_may_look_may_not_share(self):
        looker = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        looker.post("/api/sign-in", json={"name": "Ben", "passphrase": LOOKING})
        self.assertEqual(looker.put(f"/api/findings/{self.id}/link").status_code, 403)
