"""Documents of the demo, changed a little at random: each is answered, and what is refused is refused in words."""

import json
import os
from itertools import islice
from random import Random

from fuzz import cases

CASES = int(os.environ.get("SAPOLIN_CASES", "400"))
SEED = int(os.environ.get("SAPOLIN_SEED", "5"))


def test_no_document_breaks_anything(demo):
    answered = {"taken": 0, "refused": 0}
    broken = []
    for method, path, body in islice(cases(demo, Random(SEED)), CASES):
        content = json.dumps(body).encode()
        answer = demo.request(method, path, content=content, headers={"content-type": "application/json"})
        if answer.status_code >= 500:
            broken.append((method, path, answer.json()["error"], content[:3000]))
        elif answer.status_code >= 400:
            assert answer.json()["error"]["message"], (method, path)
            answered["refused"] += 1
        else:
            answered["taken"] += 1
    assert broken == []
    # Changes that all were refused, or all were taken, would try little.
    assert min(answered.values()) > CASES / 10, answered
