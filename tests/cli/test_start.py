"""How ./start keeps its parts running."""

from __future__ import annotations

import subprocess
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]


def keeping(part: str, folder: Path) -> subprocess.Popen[str]:
    script = f'say() {{ echo "$*"; }}; export KEEP_PAUSE=0.05 KEEP_TRIES=6; . {ROOT}/tools/keep.sh; keep bash -c \'{part}\' & trap "kill -TERM $!" TERM; wait $! || wait $!'
    return subprocess.Popen(
        ["bash", "-euo", "pipefail", "-c", script], cwd=folder, stdout=subprocess.PIPE, text=True
    )


def until(what, seconds: float = 10.0) -> None:
    end = time.monotonic() + seconds
    while not what():
        assert time.monotonic() < end
        time.sleep(0.02)


def test_a_part_that_ends_is_started_again_and_ends_with_the_application(tmp_path):
    """As the workers end when the database restarts; whatever code they end with."""
    began = tmp_path / "began"
    kept = keeping(
        'echo $$ >> began; n=$(wc -l < began); [ "$n" -ge 3 ] && exec sleep 60; exit $((n - 1))',
        tmp_path,
    )
    until(lambda: began.exists() and len(began.read_text().split()) == 3)
    last = int(began.read_text().split()[-1])
    assert Path(f"/proc/{last}").exists()
    kept.terminate()
    assert kept.wait(10) == 0
    until(lambda: not Path(f"/proc/{last}").exists())
    assert kept.stdout.read().count("starting it again") == 2


def test_a_part_that_cannot_begin_is_not_tried_for_ever(tmp_path):
    kept = keeping("echo x >> began; exit 1", tmp_path)
    assert kept.wait(20) == 1
    assert (tmp_path / "began").read_text().split() == ["x"] * 6
