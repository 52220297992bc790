"""What ten open Desks cost the server while runs are being analysed, in per cent of a core.

    python -m benchmarks.desks http://127.0.0.1:8750 ottilie snowlight-26

Each Desk asks as the page does: after 2 s, then the more seldom the longer it takes, to every 5 s at the most. Processor
time is read from the server's own processes (/proc), so it runs on the server's machine; answers of an idle server and of one
that analyses cost the same, which is why nothing need be analysed meanwhile.
"""

from __future__ import annotations

import argparse
import os
import threading
import time
from http.cookiejar import CookieJar
from pathlib import Path
from urllib.request import HTTPCookieProcessor, OpenerDirector, Request, build_opener

DESKS, SECONDS = 10, 60.0
FIRST_S, LONGER_S, MOST_S = 2.0, 0.06, 5.0


def logged_in(base: str, name: str, password: str) -> OpenerDirector:
    import json

    opener = build_opener(HTTPCookieProcessor(CookieJar()))
    csrf = json.load(opener.open(f"{base}/api/session"))["csrf"]
    body = json.dumps({"username": name, "password": password}).encode()
    opener.open(
        Request(
            f"{base}/api/session",
            body,
            {"Content-Type": "application/json", "X-CSRFToken": csrf, "Referer": base},
        )
    )
    return opener


def cpu_s(word: str) -> float:
    """Processor seconds so far of all processes whose command line holds a word."""
    ticks = 0
    for process in Path("/proc").iterdir():
        try:
            if word.encode() in (process / "cmdline").read_bytes().replace(b"\0", b" "):
                fields = (process / "stat").read_text().rpartition(")")[2].split()
                ticks += int(fields[11]) + int(fields[12])
        except (OSError, IndexError):
            continue
    return ticks / os.sysconf("SC_CLK_TCK")


def desk(opener: OpenerDirector, base: str, until: float, asked: list[int]) -> None:
    count = 0
    while time.monotonic() < until:
        opener.open(f"{base}/api/runs/busy").read()
        count += 1
        time.sleep(min(FIRST_S + LONGER_S * count, MOST_S))
    asked.append(count)


def main() -> None:
    given = argparse.ArgumentParser(description=__doc__)
    given.add_argument("base")
    given.add_argument("name")
    given.add_argument("password")
    args = given.parse_args()
    opener = logged_in(args.base, args.name, args.password)
    words = ("gunicorn", "postgres")
    before, began, asked = {w: cpu_s(w) for w in words}, time.monotonic(), []
    threads = [
        threading.Thread(target=desk, args=(opener, args.base, began + SECONDS, asked))
        for _ in range(DESKS)
    ]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    took = time.monotonic() - began
    share = {w: 100 * (cpu_s(w) - before[w]) / took for w in words}
    print(
        f"{DESKS} Desks, {took:.0f} s, {sum(asked)} questions: "
        + ", ".join(f"{w} {s:.1f} %" for w, s in share.items())
        + " of a core"
    )


if __name__ == "__main__":
    main()
