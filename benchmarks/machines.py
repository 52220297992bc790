"""Two web servers, two workers, a database, a store and a proxy, each on a host of its own; one of each pair is taken away mid-work.

    python -m benchmarks.machines            (as root; needs iproute2, nginx and PostgreSQL)

Hosts are network namespaces on one bridge; each has its own folder, and they share nothing but the database and the store (moto's
server, S3's protocol). Taken away means that its cable is pulled: nobody hears that it is gone, and its processes go on. A clip is
sent in pieces through the proxy; after the second piece the web server that took it is cut off. When the clip is being
followed, the worker that follows it is cut off. The clip has to be ready at the end, whole, and judged once.
"""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import time
from base64 import b64encode
from pathlib import Path
from tempfile import mkdtemp
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
NET = "10.77.0"
HOSTS = {"db": 10, "store": 11, "web1": 21, "web2": 22, "work1": 31, "work2": 32, "proxy": 2}
BRIDGE = "prokbr"
LOST_S = 12
CLIP = ROOT / "proklisis/web/demo/clips/bram.mp4"
PIECES = 5

NGINX = """
daemon off; pid {folder}/nginx.pid; error_log {folder}/nginx.log;
events {{}}
http {{
  access_log off; client_body_temp_path {folder}/body; proxy_temp_path {folder}/temp;
  fastcgi_temp_path {folder}/f; uwsgi_temp_path {folder}/u; scgi_temp_path {folder}/s;
  upstream proklisis {{ server {net}.21:8000 fail_timeout=3s; server {net}.22:8000 fail_timeout=3s; }}
  server {{
    listen {net}.2:80; client_max_body_size 2g;
    location / {{
      proxy_pass http://proklisis; proxy_set_header Host $host; proxy_request_buffering off;
      proxy_next_upstream error timeout; proxy_connect_timeout 3s; proxy_read_timeout 20s; proxy_send_timeout 20s;
      add_header X-Served-By $upstream_addr always;
    }}
  }}
}}
"""


def ip(*words: str) -> None:
    subprocess.run(["ip", *words], check=True, capture_output=True)


def on(
    host: str, *command: str, env: dict[str, str] | None = None, **more: Any
) -> subprocess.Popen[bytes]:
    """Start a command on a host."""
    return subprocess.Popen(
        ["ip", "netns", "exec", f"prok-{host}", *command], env={**os.environ, **(env or {})}, start_new_session=True, **more
    )  # fmt: skip


def cable(host: str, state: str) -> None:
    ip("link", "set", f"prok-{host}", state)


def lay() -> None:
    """A bridge with a cable to each host."""
    ip("link", "add", BRIDGE, "type", "bridge")
    ip("link", "set", BRIDGE, "up")
    for host, number in HOSTS.items():
        ip("netns", "add", f"prok-{host}")
        ip(
            "link",
            "add",
            f"prok-{host}",
            "type",
            "veth",
            "peer",
            "name",
            "eth0",
            "netns",
            f"prok-{host}",
        )
        ip("link", "set", f"prok-{host}", "master", BRIDGE, "up")
        for words in (
            ["addr", "add", f"{NET}.{number}/24", "dev", "eth0"],
            ["link", "set", "eth0", "up"],
            ["link", "set", "lo", "up"],
        ):
            ip("-n", f"prok-{host}", *words)


def clear() -> None:
    for host in HOSTS:
        subprocess.run(["ip", "netns", "del", f"prok-{host}"], capture_output=True, check=False)
    subprocess.run(["ip", "link", "del", BRIDGE], capture_output=True, check=False)


def postgres(folder: Path) -> subprocess.Popen[bytes]:
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin"))[-1]
    data = folder / "pg"
    data.mkdir()
    shutil.chown(data, "postgres")
    folder.chmod(0o755)
    as_postgres = ["runuser", "-u", "postgres", "--"]
    subprocess.run([*as_postgres, found / "initdb", "-D", data, "-U", "proklisis", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8"], check=True, capture_output=True)  # fmt: skip
    with (data / "pg_hba.conf").open("a") as f:
        f.write(f"host all all {NET}.0/24 trust\n")
    running = on("db", *as_postgres, str(found / "postgres"), "-D", str(data), "-c", f"listen_addresses={NET}.10", "-k", str(data), stderr=(folder / "pg.log").open("wb"))  # fmt: skip
    for _ in range(60):
        made = subprocess.run([*as_postgres, found / "createdb", "-h", data, "-U", "proklisis", "proklisis"], capture_output=True, check=False)  # fmt: skip
        if made.returncode == 0:
            return running
        time.sleep(0.5)
    sys.exit((folder / "pg.log").read_text())


def shared(folder: Path) -> dict[str, str]:
    """What all hosts are told; each has its own folder besides."""
    return {
        "PROKLISIS_DB_HOST": f"{NET}.10", "PROKLISIS_DB_PORT": "5432", "PROKLISIS_SECRET_KEY": "machines",
        "PROKLISIS_HOSTS": "*", "PROKLISIS_LOST_S": str(LOST_S), "PROKLISIS_MODELS": str(ROOT / "var" / "models"),
        "PROKLISIS_S3_BUCKET": "clips", "PROKLISIS_S3_ENDPOINT": f"http://{NET}.11:5000", "PROKLISIS_S3_REGION": "eu-central-1",
        "PROKLISIS_S3_KEY": "x", "PROKLISIS_S3_SECRET": "x", "DJANGO_SETTINGS_MODULE": "proklisis.web.settings",
        "PROKLISIS_NEW_CLUBS": "machines", "PYTHONPATH": str(ROOT),
    }  # fmt: skip


ASK = """
import http.client, json, sys
method, path, headers, body = json.loads(sys.argv[1])
data = open(body[0], "rb").read()[body[1]:body[2]] if body else sys.argv[2].encode() if len(sys.argv) > 2 else None
c = http.client.HTTPConnection("%s.2", 80, timeout=60)
c.request(method, path, data, headers)
r = c.getresponse()
print(json.dumps([r.status, r.getheaders(), r.read().decode("utf-8", "replace")]))
"""


class Browser:
    """Somebody who asks the proxy, from its own host."""

    def __init__(self) -> None:
        self.cookies: dict[str, str] = {}
        self.csrf = ""

    def ask(self, method: str, path: str, said: Any = None, piece: tuple[str, int, int] | None = None, **headers: str) -> tuple[int, dict[str, str], Any]:  # fmt: skip
        head = {"Host": f"{NET}.2", "Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items()), "X-CSRFToken": self.csrf, **headers}  # fmt: skip
        if said is not None:
            head["Content-Type"] = "application/json"
        words = [sys.executable, "-c", ASK % NET, json.dumps([method, path, head, piece])]
        got = on(
            "proxy",
            *words,
            *([json.dumps(said)] if said is not None else []),
            stdout=subprocess.PIPE,
        )
        out = got.communicate()[0]
        status, back, body = json.loads(out)
        for name, value in back:
            if name.lower() == "set-cookie":
                key, _, rest = value.partition("=")
                self.cookies[key] = rest.partition(";")[0]
        return (
            status,
            {k.lower(): v for k, v in back},
            json.loads(body) if body.startswith(("{", "[")) else body,
        )


def main() -> None:
    if os.geteuid() != 0:
        sys.exit("This lays cables between namespaces: run it as root.")
    clear()
    folder = Path(mkdtemp(prefix="prok-machines-"))
    running: dict[str, subprocess.Popen[bytes]] = {}
    env = shared(folder)
    began = time.monotonic()

    def say(words: str) -> None:
        print(f"{time.monotonic() - began:7.1f} s  {words}", flush=True)

    def started(host: str, *command: str) -> None:
        own = folder / host
        own.mkdir(exist_ok=True)
        log = (own / "log").open("ab")
        running[host] = on(host, *command, env={**env, "PROKLISIS_VAR": str(own), "PROKLISIS_MEDIA": str(own / "media")}, stdout=log, stderr=log)  # fmt: skip

    try:
        lay()
        running["db"] = postgres(folder)
        started("store", "moto_server", "-H", f"{NET}.11", "-p", "5000")
        time.sleep(3)
        make = "import boto3; boto3.client('s3', endpoint_url='http://%s.11:5000', region_name='eu-central-1', aws_access_key_id='x', aws_secret_access_key='x').create_bucket(Bucket='clips', CreateBucketConfiguration={'LocationConstraint': 'eu-central-1'})"  # fmt: skip
        on("web1", sys.executable, "-c", make % NET).wait(60)
        started("web1", sys.executable, "manage.py", "migrate", "-v", "0")
        if running["web1"].wait(300):
            sys.exit((folder / "web1" / "log").read_text()[-2000:])
        for host in ("web1", "web2"):
            started(host, "gunicorn", "proklisis.web.wsgi", "--bind", f"{NET}.{HOSTS[host]}:8000", "--worker-class", "gthread", "--threads", "4", "--no-control-socket")  # fmt: skip
        for host in ("work1", "work2"):
            started(host, sys.executable, "manage.py", "procrastinate", "worker", "--queues", "clips", "--concurrency", "1", "--delete-jobs", "successful")  # fmt: skip
        (folder / "nginx.conf").write_text(NGINX.format(folder=folder, net=NET))
        started("proxy", "nginx", "-c", str(folder / "nginx.conf"))
        say("seven hosts are up")
        time.sleep(8)

        me = Browser()
        login = {"username": "ilse", "password": "quiet-river-stone"}
        status, _, said = me.ask(
            "POST",
            "/api/new-club",
            {"code": "machines", "club": "Brightmere", "name": "Ilse", **login},
        )
        assert status == 201, said
        me.csrf = me.ask("GET", "/api/session")[2]["csrf"]
        status, _, said = me.ask("POST", "/api/session", login, Referer=f"http://{NET}.2/")
        assert status == 200, said
        me.csrf = said["csrf"]
        status, _, said = me.ask(
            "POST", "/api/riders", {"name": "Wren", "born": 1990, "height_cm": 172}
        )
        assert status == 201, said
        status, _, said = me.ask(
            "POST",
            "/api/runs",
            {"rider_id": said["id"], "view": "front", "conditions": {"slope_deg": 17}},
        )
        assert status == 201, said
        run = said["id"]

        size = CLIP.stat().st_size
        meta = ",".join(
            f"{k} {b64encode(v.encode()).decode()}"
            for k, v in {"run": str(run), "filename": CLIP.name}.items()
        )
        tus = {"Tus-Resumable": "1.0.0", "Content-Type": "application/offset+octet-stream"}
        status, head, said = me.ask(
            "POST",
            "/api/uploads",
            None,
            None,
            **{**tus, "Upload-Length": str(size), "Upload-Metadata": meta},
        )
        assert status == 201, said
        where = head["location"].partition(f"{NET}.2")[2] or head["location"]
        at, step, cut, tries = 0, size // PIECES + 1, "", 0
        while at < size:
            end = min(at + step, size)
            status, head, said = me.ask(
                "PATCH", where, None, (str(CLIP), at, end), **{**tus, "Upload-Offset": str(at)}
            )
            tries += 1
            if status != 204:
                say(f"a piece was answered {status}; asking how much has come")
                at = int(me.ask("HEAD", where, None, None, **tus)[1]["upload-offset"])
                continue
            at = int(head["upload-offset"])
            by = {f"{NET}.21:8000": "web1", f"{NET}.22:8000": "web2"}.get(
                head["x-served-by"].split(", ")[-1], "?"
            )
            say(f"{at} of {size} bytes are there, the last by {by}")
            if at >= 2 * step and not cut:
                cut = by
                cable(by, "down")
                say(f"the cable of {by} is pulled")
        say(f"the clip has come whole, in {tries} tries")

        gone, stood = "", ("", "")
        for _ in range(600):
            seen = me.ask("GET", f"/api/runs/{run}")[2]
            if (seen["state"], seen["step"]) != stood:
                stood = (seen["state"], seen["step"])
                say(f"the run is {seen['state']}: {seen['step']}")
            if not gone and seen["state"] == "working" and "ollow" in seen["step"]:
                for host in ("work1", "work2"):
                    # Whoever has a film in hand has a child that decodes it.
                    pids = subprocess.run(
                        ["ip", "netns", "pids", f"prok-{host}"],
                        capture_output=True,
                        text=True,
                        check=False,
                    )
                    if len(pids.stdout.split()) > 1:
                        gone = host
                if gone:
                    cable(gone, "down")
                    say(f"the cable of {gone} is pulled while the rider is followed")
            if seen["state"] in ("ready", "failed"):
                break
            time.sleep(1)
        assert seen["state"] == "ready", seen
        bench = me.ask("GET", f"/api/runs/{run}/bench")[2]
        say(
            f"it is judged: {len(bench['units'])} turns, main thing: {(bench['prescription']['main'] or {}).get('title', 'none')}"
        )
        cable(cut, "up")
        if gone:
            cable(gone, "up")
        say("the cables are back")
        time.sleep(40)
        again = me.ask("GET", f"/api/runs/{run}")[2]
        same = me.ask("GET", f"/api/runs/{run}/bench")[2]
        assert again["state"] == "ready" and same["units"] == bench["units"]
        served = {me.ask("GET", "/api/session")[1]["x-served-by"].split(", ")[-1] for _ in range(8)}
        say(f"nothing has changed by those who came back; {len(served)} web servers answer")
    finally:
        for each in running.values():
            try:
                os.killpg(each.pid, signal.SIGKILL)
            except ProcessLookupError:
                continue
        time.sleep(1)
        clear()
        if "--keep" not in sys.argv:
            shutil.rmtree(folder, ignore_errors=True)
        else:
            print(folder)


if __name__ == "__main__":
    main()
