"""The API's own page: every door and every document is on it, every link leads somewhere, and nothing of it comes from
elsewhere.
"""

from __future__ import annotations

import re
from html import escape

from fastapi.testclient import TestClient


def test_every_door_and_document_is_on_the_page_and_every_link_leads_somewhere(client: TestClient) -> None:
    told, page = client.get("/api/schema").json(), client.get("/api/reference")
    assert page.headers["content-type"].startswith("text/html")
    text = page.text
    for path, doors in told["paths"].items():
        assert text.count(f"<code>{escape(path)}</code></h3>") == len(doors)
    names = set(told["components"]["schemas"])
    assert names == set(re.findall(r"<h3 id='(\w+)'>", text))
    assert set(re.findall(r"href='#(\w+)'", text)) <= names
    assert not re.search(r"(src|href)='(?!#|/api/)", text) and "<script" not in text
    assert "/api/reference" not in told["paths"], "it describes what it is for, not itself"
