"""Calls every route of a running installation with generated requests, as engineer, supervisor and owner, with schemathesis, an independent package.

    python3 checks/routes.py BASE PEOPLE.json CALLS

PEOPLE.json is the demo's list of names and passwords. Of what each call is answered: never 5xx, a status and a type of content that docs/openapi.json
names, and a body as it describes. `cargo xtask routes --calls 20000` starts an installation with the demo's data and runs this.
"""
import collections
import json
import os
import random
import sys
import time
from pathlib import Path

import requests
import schemathesis
from hypothesis import HealthCheck, Phase, Verbosity, given, seed, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance, status_code_conformance

BASE, PEOPLE, CALLS = os.environ["ZERO_LEAK_BASE"], json.loads(os.environ["ZERO_LEAK_PEOPLE"]), int(sys.argv[1])
ROLES = ["engineer", "supervisor", "owner"]
CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]
ROOT = Path(__file__).resolve().parent.parent
PASSWORDS = {p["sign_in"]: p["password"] for p in PEOPLE}
RANDOM = random.Random(7)


class Person:
    """Somebody who is signed in, and signs in again when a call has ended that."""

    def __init__(self, name):
        self.name, self.http = name, requests.Session()
        self.sign_in()

    def sign_in(self):
        for _ in range(30):
            answer = self.http.post(f"{BASE}/api/v1/session", json={"sign_in": self.name, "password": PASSWORDS[self.name]})
            if answer.ok:
                self.token = answer.json()["token"]
                return
            time.sleep(float(answer.headers.get("retry-after", 1)))
        raise SystemExit(f"{self.name} cannot sign in: {answer.status_code} {answer.text}")

    def get(self, path):
        return self.http.get(f"{BASE}/api/v1{path}").json()


people = [Person(name) for name in ROLES]
packs = people[0].get("/packs?most=200")["lines"]
views = [people[0].get(f"/packs/{p['id']}") for p in packs]
attempts = [a["id"] for v in views for a in v.get("attempts", [])]
tags = [i["instrument"]["tag"] for i in people[0].get("/instruments")]
REAL = {
    "id": [p["id"] for p in packs],
    "attempt": attempts,
    "tag": tags,
    "figure": ["planned", "lower", "upper"],
    "project": [p["id"] for p in people[0].get("/session")["projects"]],
    "item": [b["id"] for v in views for b in v.get("boundary", [])],
}
VERSIONS = {v["id"]: v["version"] for v in views}

schema = schemathesis.openapi.from_path(ROOT / "docs/openapi.json")
schema.config.base_url = BASE
operations = [r.ok() for r in schema.get_all_operations()]
each = max(1, -(-CALLS // (len(operations) * len(people))))
statuses, wrong, calls, slowest = collections.Counter(), collections.Counter(), 0, (0.0, "")


def told(problem):
    wrong[problem] += 1
    if wrong[problem] == 1:
        print("WRONG", problem, flush=True)


# some routes have few requests that differ: what is left goes to another turn
for turn in range(7, 107):
    if calls >= CALLS:
        break
    for operation in operations:
        route = f"{operation.method.upper()} {operation.path}"
        for person in people:

            @seed(turn)
            @settings(max_examples=each, deadline=None, phases=[Phase.generate], database=None, verbosity=Verbosity.quiet, suppress_health_check=list(HealthCheck))
            @given(case=operation.as_strategy())
            def story(case):
                global calls, slowest
                # a real id in four of five calls: what is not there is told at the door
                for name in case.path_parameters or {}:
                    if name in REAL and REAL[name] and RANDOM.random() < 0.8:
                        case.path_parameters[name] = RANDOM.choice(REAL[name])
                headers = {"x-request-token": person.token}
                if "id" in (case.path_parameters or {}) and RANDOM.random() < 0.8:
                    headers["if-match"] = f"\"v{VERSIONS.get(case.path_parameters['id'], 1)}\""
                asked = time.monotonic()
                try:
                    if operation.path.endswith(("/live", "/news")):
                        url = f"{BASE}{case.formatted_path}"
                        with person.http.get(url, params=case.query, headers=headers, stream=True, timeout=60) as answer:
                            status, body = answer.status_code, b"" if answer.ok else answer.content
                        if status >= 500 or str(status) not in operation.definition.raw["responses"]:
                            told(f"{route}: {status} {body[:200]}")
                    else:
                        answer = case.call(session=person.http, headers=headers, timeout=60)
                        status = answer.status_code
                        for check in CHECKS:
                            try:
                                case.validate_response(answer, checks=[check])
                            except (Exception, BaseExceptionGroup) as e:  # each check has failures of its own
                                e = getattr(e, "exceptions", [e])[0]
                                told(f"{route} as {person.name}: {check.__name__}: {status} {str(e)[:600]}")
                except requests.exceptions.RequestException as e:
                    told(f"{route} as {person.name}: {type(e).__name__} {str(e)[:200]}")
                    status = 0
                took = time.monotonic() - asked
                slowest = max(slowest, (took, route))
                statuses[status] += 1
                calls += 1
                if status == 429:
                    time.sleep(0.05)
                if status == 401 or (operation.path.endswith("/session") and operation.method != "get"):
                    person.sign_in()

            try:
                story()
            except (Exception, BaseExceptionGroup) as e:
                told(f"{route}: no request could be made: {str(e)[:300]}")

print(f"schemathesis {schemathesis.__version__}: {calls} calls of {len(operations)} operations as {', '.join(ROLES)}")
print("statuses", dict(sorted(statuses.items())))
print(f"slowest {slowest[0]:.2f} s: {slowest[1]}")
print(f"{sum(wrong.values())} wrong answers, {len(wrong)} kinds")
sys.exit(1 if wrong or calls < CALLS else 0)
