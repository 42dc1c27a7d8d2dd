"""The application as strangers call it: from its own description, and with ids that exist; every answer is judged."""

import json
import random
import re
import time
import urllib.parse
import uuid
from collections import Counter

import httpx
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from schemathesis.config import SchemathesisConfig

ALLOWED_5XX = (503, 507)
PATIENCE_S = 120.0
ANSWERED_WITHIN_S = 5.0
LONG_WORK = re.compile(
    r"/improved|/coverage|/plans/preview|/api/plans$|/replanned|/happened|/rehearsals|/fit|/instruments"
    r"|/meter-checks/read"
)
"""What is worked out for longer than a moment, or waits for an instrument: it has its own progress and limits."""

STREAMS = ("/events",)
# The meaning of a value is no matter of its type: what is refused for it is refused with 422.
ACCEPTS = {
    "checks": {
        "positive_data_acceptance": {
            "expected-statuses": ["2xx", "400", "401", "403", "404", "409", "410", "413", "422", "503"],
        },
        "unsupported_method": {"enabled": True},
    }
}
HOSTILE = (
    0, -1, 1, 2**31, 2**63, 2**64, -(2**63), 1e308, -1e308, 1e15, 1e-308, 0.1, True, False, None, "", "a", "\u0000",
    "\ud800", "x" * 5000, "😀", "＝1", "=1+1", "<script>", "../../etc/passwd", "%00", "2027-03-01T08:00",
    "2027-03-01T08:00:00Z", "0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-14:00", "NaN", [], {}, [[]], [None],
    {"": ""}, [1] * 2000, "\u202e", "١٢",
)  # fmt: skip
TRACEBACK = re.compile(r"Traceback \(most recent|File \"/|\.py\", line")


class Judge:
    """Judges answers: what was asked and answered, and every one that must not be."""

    def __init__(self, slow_s=None):
        self.slow_s, self.asked, self.wrong, self.statuses = slow_s, 0, [], Counter()

    def judge(self, what, answer, seconds, path=""):
        """Whether an answer may be."""
        self.asked += 1
        self.statuses[answer.status_code] += 1
        if answer.status_code >= 500 and answer.status_code not in ALLOWED_5XX:
            self.wrong.append(f"{what}: {answer.status_code} {answer.text[:300]}")
        if TRACEBACK.search(answer.text[:5000]):
            self.wrong.append(f"{what}: a traceback")
        for_people = what.startswith("GET /shared/") and answer.status_code == 404
        if answer.status_code >= 400 and not for_people and "json" not in answer.headers.get("content-type", ""):
            self.wrong.append(f"{what}: {answer.status_code} without a problem")
        if answer.headers.get("content-type", "").startswith("application/json"):
            try:
                json.loads(answer.text, parse_constant=_no_number)
            except ValueError as error:
                self.wrong.append(f"{what}: {error}")
        if self.slow_s is not None and seconds > self.slow_s and not LONG_WORK.search(path):
            self.wrong.append(f"{what}: {seconds:.1f} s")


def _no_number(text):
    raise ValueError(f"{text} in JSON")


def by_description(address, cookie, budget_s, judge, chance=0):
    """Calls made from the description of the API, with all checks; until the time is over."""
    spec = httpx.get(f"{address}/api/openapi.json", cookies={"jaunecharge": cookie}, timeout=PATIENCE_S).json()
    schema = schemathesis.openapi.from_dict(spec, config=SchemathesisConfig.from_dict(ACCEPTS))
    schema.config.update(base_url=address)
    operations = [r.ok() for r in schema.get_all_operations()]
    operations = [o for o in operations if not o.path.endswith(STREAMS) and "sign-in" not in o.path]
    until, turn = time.monotonic() + budget_s, 0
    while time.monotonic() < until:
        for n, operation in enumerate(operations):
            if time.monotonic() > until:
                break
            _ask(operation, cookie, judge, seed_=chance + 1000 * turn + n, examples=3 if turn == 0 else 10)
        turn += 1
    return turn


def _ask(operation, cookie, judge, seed_, examples):
    what = f"{operation.method.upper()} {operation.path}"

    @seed(seed_)
    @given(case=operation.as_strategy())
    @settings(max_examples=examples, deadline=None, database=None, suppress_health_check=list(HealthCheck),
              phases=[Phase.generate])  # fmt: skip
    def ask(case):
        began = time.monotonic()
        response = case.call(timeout=PATIENCE_S, cookies={"jaunecharge": cookie})
        judge.asked += 1
        judge.statuses[response.status_code] += 1
        seconds = time.monotonic() - began
        if judge.slow_s is not None and seconds > judge.slow_s and not LONG_WORK.search(operation.path):
            judge.wrong.append(f"{what}: {seconds:.1f} s for {case.body!r}"[:400])
        try:
            case.validate_response(response)
        except (Exception, BaseExceptionGroup) as error:
            for each in getattr(error, "exceptions", [error]):
                judge.wrong.append(f"{what}: {type(each).__name__} {str(each)[:300]!r} body {case.body!r}"[:900])

    ask()


def ids_of(web):
    """Ids that exist, by the name that paths and bodies give them."""
    runs = [r["id"] for r in web.get("/api/runs").json()]
    kit = [k["id"] for k in web.get("/api/kit").json()]
    plans = [p["id"] for p in web.get("/api/plans").json()]
    lanes = [x["view"]["id"] for x in web.get("/api/bench").json()["lanes"]]
    slots = [s["id"] for p in plans for s in web.get(f"/api/plans/{p}").json().get("slots", [])]
    cards = [c["id"] for c in web.get("/api/method").json().get("cards", []) if c.get("id")]
    tokens = [web.get(f"/api/lanes/{x}/link").json()["token"] for x in lanes]
    return {
        "run_id": runs, "piece_id": kit, "plan_id": plans, "lane_id": lanes, "slot_id": slots, "card_id": cards,
        "token": tokens, "runs": runs, "run": runs, "phones": kit, "chargers": kit, "adapter": kit, "slot": slots,
    }  # fmt: skip


class WithIds:
    """Calls with ids that exist and bodies that are almost right: made of the description, then spoilt."""

    def __init__(self, spec, ids, seed_):
        self.spec, self.ids, self.chance = spec, ids, random.Random(seed_)
        self.operations = [
            (path, method, op) for path, ops in spec["paths"].items() for method, op in ops.items()
            if not path.endswith(STREAMS) and not path.startswith(("/api/sign-in", "/api/people"))
            and not (method == "delete" and path in ("/api/bench/aside",)) and path != "/api/instruments/try"
        ]  # fmt: skip

    def one(self):
        """A call: method, path, query, body."""
        path, method, operation = self.chance.choice(self.operations)
        query = {}
        for p in operation.get("parameters", []):
            value = self.id_of(p["name"]) or self.value(p["schema"], p["name"], 3)
            if p["in"] == "path":
                path = path.replace("{" + p["name"] + "}", _in_path(value))
            elif self.chance.random() < 0.7:
                query[p["name"]] = str(value)[:3000].replace("\x00", "").encode("utf-8", "replace").decode()
        content = operation.get("requestBody", {}).get("content", {})
        body = self.value(content["application/json"]["schema"], "", 6) if "application/json" in content else None
        return method.upper(), path, query, body

    def id_of(self, name):
        known = self.ids.get(name)
        return self.chance.choice(known) if known and self.chance.random() < 0.85 else None

    def value(self, schema, name, depth):
        """A value of a schema; now and then another."""
        chance = self.chance
        if chance.random() < 0.04:
            return chance.choice(HOSTILE)
        if "$ref" in schema:
            schema = self.spec["components"]["schemas"][schema["$ref"].rpartition("/")[2]]
        if "anyOf" in schema:
            schema = chance.choice(schema["anyOf"])
            return self.value(schema, name, depth)
        if "enum" in schema or "const" in schema:
            return chance.choice(schema.get("enum") or [schema["const"]])
        kind = schema.get("type")
        if kind == "object" or "properties" in schema:
            if depth <= 0:
                return {}
            wanted = schema.get("required", [])
            return {
                k: self.value(v, k, depth - 1) for k, v in schema.get("properties", {}).items()
                if k in wanted or chance.random() < 0.6
            }  # fmt: skip
        if kind == "array":
            return [self.value(schema.get("items", {}), name, depth - 1) for _ in range(chance.choice((0, 1, 1, 2, 3)))]
        if kind == "boolean":
            return chance.random() < 0.5
        if kind in ("number", "integer"):
            low, high = schema.get("minimum", -10), schema.get("maximum", 1000)
            made = chance.choice((low, high, 0, 1, chance.uniform(low, high), chance.uniform(0, 100)))
            return int(made) if kind == "integer" else made
        if schema.get("format") == "uuid":
            return self.id_of(name) or str(uuid.UUID(int=chance.getrandbits(128)))
        if schema.get("format") == "date-time":
            return chance.choice(("2027-03-01T08:00:00Z", "2027-03-01T08:00:00+02:00", "1970-01-01T00:00:00Z"))
        return chance.choice(("", "a 47", "Ostrel Max", "Cairn disc", "10 24c", "a placed", "UTC", "Europe/Zurich",
                              "0 10\n20 30", "08:00", "x", "a end void enough", "0 25c back", "a @+5 50"))  # fmt: skip


def _in_path(value):
    return urllib.parse.quote(str(value)[:300].encode("utf-8", "replace"), safe="") or "_"


def _answered(web, method, path, **more):
    """The answer; asked for a second time where the connection was closed, which an idle one may be at any moment."""
    try:
        return web.request(method, path, **more)
    except httpx.TransportError:
        return web.request(method, path, **more)


def with_ids(web, budget_s, judge, seed_=1):
    """Calls with ids that exist, until the time is over."""
    spec = web.get("/api/openapi.json").json()
    made = WithIds(spec, ids_of(web), seed_)
    until = time.monotonic() + budget_s
    while time.monotonic() < until:
        method, path, query, body = made.one()
        began = time.monotonic()
        content = None if body is None else json.dumps(body).encode()
        headers = {"Content-Type": "application/json"} if content else {}
        answer = _answered(web, method, path, params=query, content=content, headers=headers, timeout=PATIENCE_S)
        judge.judge(f"{method} {path} {query} {str(body)[:300]}", answer, time.monotonic() - began, path)
        if judge.asked % 500 == 0:
            made.ids = ids_of(web)
