"""What a change did to a verdict, in a coach's words."""

from __future__ import annotations

from proklisis.core.shapes.prescription import Finding, Prescription, VerdictChange

FOUND = ("root", "symptom", "episode")


def verdict_change(before: Prescription, after: Prescription) -> VerdictChange | None:
    """What is otherwise than before; None where the verdict stands as it stood."""
    was, now = before["main"], after["main"]
    old, new = _found(before), _found(after)
    change: VerdictChange = {
        "main_before": was["title"] if was else None,
        "main_now": now["title"] if now else None,
        "main_changed": (was and (was["fault"], was["side"])) != (now and (now["fault"], now["side"])),
        "gone": [f["title"] for i, f in old.items() if i not in new],
        "new": [f["title"] for i, f in new.items() if i not in old],
        "surer": [f["title"] for i, f in new.items() if i in old and _sureness(f) > _sureness(old[i])],
        "less_sure": [f["title"] for i, f in new.items() if i in old and _sureness(f) < _sureness(old[i])],
    }  # fmt: skip
    told = ("gone", "new", "surer", "less_sure")
    return change if change["main_changed"] or any(change[k] for k in told) else None  # type: ignore[literal-required]


def _found(p: Prescription) -> dict[str, Finding]:
    return {f["fault"]: f for f in p["findings"] if f["status"] in FOUND}


def _sureness(f: Finding) -> int:
    return ("unclear", "likely", "clear").index(f["verdict"])
