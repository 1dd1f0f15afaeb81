"""A client of the running application, as a page of it would be: the session's cookie and token with every change."""

import json
import re
from pathlib import Path
from typing import Any

import httpx2 as httpx


class Visitor:
    """Speaks to one server; safe from several threads."""

    def __init__(self, address: str, seconds: float = 60.0) -> None:
        self.http = httpx.Client(base_url=address, timeout=seconds, follow_redirects=False)
        page = self.http.get("/recipes").text
        found = re.search(r'name="csrf-token" content="(\w+)"', page)
        assert found, page[:300]
        self.http.headers["x-csrf-token"] = found[1]

    def post(self, path: str, **fields: Any) -> Any:
        """A form; answers with what came back."""
        answer = self.http.post(path, data=fields)
        if answer.status_code >= 400:
            raise AssertionError(f"{path}: {answer.status_code} {answer.text[:300]}")
        return json.loads(answer.text) if "json" in answer.headers.get("content-type", "") else answer.text

    def bring(self, shoot_id: int, path: Path, name: str | None = None) -> Any:
        with path.open("rb") as handle:
            answer = self.http.post(f"/shoots/{shoot_id}/files", files={"file": (name or path.name, handle)})
        if answer.status_code >= 400:
            raise AssertionError(f"{path.name}: {answer.status_code} {answer.text[:300]}")
        return answer.json()

    def get(self, path: str) -> bytes:
        answer = self.http.get(path)
        if answer.status_code >= 400:
            raise AssertionError(f"{path}: {answer.status_code} {answer.text[:300]}")
        return bytes(answer.content)

    def close(self) -> None:
        self.http.close()
