"""Two hundred damaged clips through the web upload, with the workers that ./start starts: does any hang, is a good one taken as always after?

    python -m benchmarks.damaged_clips --at http://127.0.0.1:8750 --user ottilie --password … [--clips 200]

Against an application that runs with its demo data. Prints what became of them, how long the longest was worked at, how long a good
clip took before and after, and how many were ready at the end.
"""

from __future__ import annotations

import argparse
import base64
import json
import subprocess
import tempfile
import time
import urllib.error
import urllib.request
from collections import Counter
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

import numpy as np

from proklisis.web.demo.cast import CLIPS
from tests.footage.test_clips import damaged

BUSY = ("queued", "working")


class Site:
    """A logged-in coach at an address."""

    def __init__(self, at: str, user: str, password: str) -> None:
        self.at, self.csrf = at, ""
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        self.csrf = self.ask("GET", "/api/session")["csrf"]
        self.csrf = self.ask("POST", "/api/session", {"username": user, "password": password})[
            "csrf"
        ]

    def ask(self, method: str, path: str, body: Any = None, **headers: str) -> Any:
        data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        kind = headers.pop("kind", "application/json")
        request = urllib.request.Request(
            self.at + path,
            data,
            {"Content-Type": kind, "X-CSRFToken": self.csrf, "Referer": self.at, **headers},
            method=method,
        )
        try:
            with self.opener.open(request, timeout=120) as answer:
                text = answer.read()
                return json.loads(text) if text else dict(answer.headers)
        except urllib.error.HTTPError as e:
            return {"refused": e.code, **json.loads(e.read() or b"{}")}

    def send(self, rider: int, clip: Path) -> tuple[int, bool]:
        """A new run with a clip sent to it: its number, and whether the clip was taken."""
        run = self.ask(
            "POST",
            "/api/runs",
            {"rider_id": rider, "view": "front", "level": "novice", "discipline": "alpine_carve"},
        )["id"]
        told = ",".join(
            f"{k} {base64.b64encode(v.encode()).decode()}"
            for k, v in (("run", str(run)), ("filename", clip.name))
        )
        tus = {"Tus-Resumable": "1.0.0", "kind": "application/offset+octet-stream"}
        made = self.ask(
            "POST",
            "/api/uploads",
            b"",
            **{"Upload-Length": str(clip.stat().st_size), "Upload-Metadata": told, **tus},
        )
        if "refused" in made:
            return run, False
        answer = self.ask(
            "PATCH", made["Location"], clip.read_bytes(), **{"Upload-Offset": "0", **tus}
        )
        return run, "refused" not in answer


def _cut(clip: Path, to: Path) -> Path:
    """The first two and a half seconds of a clip, as they are."""
    subprocess.run(
        ["ffmpeg", "-v", "error", "-y", "-i", str(clip), "-t", "2.5", "-c", "copy", str(to)],
        check=True,
    )
    return to


def wait(site: Site, runs: set[int], seconds: float) -> tuple[dict[int, str], float]:
    """What became of runs, and the longest time that one was seen being worked at."""
    began: dict[int, float] = {}
    longest = 0.0
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        now = {r["id"]: r["state"] for r in site.ask("GET", "/api/runs/busy")}
        for run, state in now.items():
            if state == "working":
                longest = max(longest, time.monotonic() - began.setdefault(run, time.monotonic()))
        if not runs & set(now):
            break
        time.sleep(0.5)
    return {run: site.ask("GET", f"/api/runs/{run}")["state"] for run in runs}, longest


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--at", default="http://127.0.0.1:8750")
    parser.add_argument("--user", default="ottilie")
    parser.add_argument("--password", required=True)
    parser.add_argument("--clips", type=int, default=200)
    parser.add_argument(
        "--seed", type=int, default=12, help="another one where these clips were sent before"
    )
    args = parser.parse_args()
    site = Site(args.at, args.user, args.password)
    rider = site.ask("GET", "/api/riders?limit=1")["results"][0]["id"]
    with tempfile.TemporaryDirectory() as folder:
        good = [
            _cut(CLIPS / f"{name}.mp4", Path(folder) / f"{name}.mp4") for name in ("isolde", "wren")
        ]

        def one(clip: Path) -> tuple[str, float]:
            began = time.monotonic()
            run, taken = site.send(rider, clip)
            states, _ = wait(site, {run}, 300)
            return states[run] if taken else "refused", time.monotonic() - began

        before = one(good[0])
        runs, refused = set(), 0
        for path in damaged(Path(folder), np.random.default_rng(args.seed), args.clips):
            run, taken = site.send(rider, path)
            runs |= {run} if taken else set()
            refused += not taken
        states, longest = wait(site, runs, 3600)
        after = one(good[1])
    print(
        f"{args.clips} damaged clips: {refused} refused at the door, {dict(Counter(states.values()))}"
    )
    print(
        f"still busy: {sum(s in BUSY for s in states.values())}; the longest was worked at for {longest:.0f} s"
    )
    print(
        f"a good clip before: {before[0]} in {before[1]:.0f} s; after: {after[0]} in {after[1]:.0f} s"
    )


if __name__ == "__main__":
    main()
