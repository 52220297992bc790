"""A Script as it stands: what was judged, with the coach's changes laid over it."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from django.utils import timezone

from proklisis.core.playbook.cues import next_step, outcome
from proklisis.core.playbook.words import day_words, describe_evidence, target_words
from proklisis.core.review import nothing_found
from proklisis.core.shapes.prescription import Prescription
from proklisis.web.analysis.said import Word, in_force, notes_of, word_of
from proklisis.web.clubs.books import club_playbook
from proklisis.web.runs.models import Run
from proklisis.web.scripts.models import ClubText, Script, Tick
from proklisis.web.scripts.practice import planned
from proklisis.web.targets.models import open_for

#: Why a ladder does not go on.
NOT_MOVED: dict[str, str] = {
    "no_change": "no change of the number can be told yet",
    "worse": "the number got worse",
    "cannot_tell": "whether it worked cannot be told from this clip",
}
RETEST_AFTER = timedelta(days=14)


def script_of(run: Run) -> Script:
    script, _ = Script.objects.get_or_create(run=run)
    return script


def film_again(run: Run, script: Script, begins: dict[str, int] | None = None) -> date:
    """The day of the next clip: the coach's, else the first after the ladder's sessions where those can be planned, else in two weeks.

    ``begins`` : drill → step to begin with, where that is known already.
    """
    if script.retest_on:
        return script.retest_on
    today = timezone.localdate()
    if begins is None:
        _, begins = ladder_begins(run, script)
    plan = planned(run.rider, {"prescription": run.result.prescription, "begins": begins}, today)
    return plan[-1].day if plan else today + RETEST_AFTER


def composed(run: Run, script: Script) -> dict[str, Any]:
    """The verdict with what the coach writes around it."""
    book = club_playbook(run.club, run.discipline)
    prescription: Prescription = run.result.prescription
    edits = in_force(run)
    # What was dropped before the run's discipline was put right says nothing of this one.
    word = word_of(edits)
    dropped = {i: reason for i, reason in word.dropped.items() if i in book.faults}
    named = {f["fault"] for f in prescription["findings"]} | set(dropped)
    named |= {c["fault"] for c in prescription["cannot_tell"]}
    lessons = [i for i in script.lessons if i in book.faults]
    stepped, begins = ladder_begins(run, script)
    return {
        "prescription": prescription,
        "nothing_words": nothing_found(prescription),
        "titles": {
            **{i: book.faults[i].title for i in named if i in book.faults},
            **{f["fault"]: f["title"] for f in prescription["findings"]},
        },
        "targets": [target_words(t) for t in prescription["retest"]],
        "evidence_words": {
            f["fault"]: [describe_evidence(e, book.unit) for e in f["evidence"][:4]]
            for f in prescription["findings"]
        },
        "message": script.message,
        "noted_words": [e.values["words"] for e in notes_of(edits) if e.values.get("words")],
        "dropped": dropped,
        "retest_on": film_again(run, script, begins).isoformat(),
        "others": others_of(script, word, prescription),
        "lessons": [{"fault": i, "title": book.faults[i].title} for i in lessons],
        "begins": begins,
        "stepped": stepped,
        "closing": [t.text for t in ClubText.objects.filter(club=run.club_id, closing=True)],
    }


def others_of(script: Script, word: Word, prescription: Prescription) -> list[str]:
    """The faults whose cues go with a Script beside the main thing, in order."""
    main = prescription["main"]
    given = [c["fault"] for c in prescription["cues"] if not main or c["fault"] != main["fault"]]
    wanted = word.also if script.others is None else script.others
    return [i for i in wanted if i in given]


def ladder_begins(run: Run, script: Script) -> tuple[str, dict[str, int]]:
    """Why the main ladder begins where it does, empty where nothing was before it; and drill → step to begin with.

    A ladder that was given with the last Script goes on where it worked; a coach's own choice stands.
    """
    prescription: Prescription = run.result.prescription
    drills = {d["id"]: d for d in prescription["drills"]}
    chosen = {i: k for i, k in script.begins.items() if i in drills and k < len(drills[i]["steps"])}
    main, last = prescription["main"], open_for(run)
    drill = drills.get(last.drill) if last is not None else None
    if main is None or last is None or drill is None or last.fault != main["fault"]:
        return "", chosen
    ticked = Tick.objects.filter(script__run=last.run, drill=last.drill)
    done = max((t.step for t in ticked if t.step < len(drill["steps"])), default=None)
    rows = prescription["followup"]
    came = outcome(rows) if rows else "cannot_tell"
    step = next_step(last.step, done, len(drill["steps"]), came)
    title, n = drill["title"], len(drill["steps"])
    if came == "moved":
        # What was not ticked may not have been done: only what is known of it is said.
        far = f"“{title}” is ticked as far as step {done + 1} of {n}" if done is not None else f"“{title}” was given from step {last.step + 1} of {n} on"  # fmt: skip
        at_last = (last.step if done is None else max(last.step, done)) >= n - 1
        goes_on = (
            "do its last step more, or choose another drill"
            if at_last
            else f"it goes on with step {step + 1}"
        )
        return f"{far}, and the number moved: {goes_on}.", {drill["id"]: step, **chosen}
    if not last.step and done is None:
        return "", chosen
    return f"“{title}” begins with step {step + 1} of {n} again: {NOT_MOVED[came]}.", {
        drill["id"]: step,
        **chosen,
    }


def texts_of(body: dict[str, Any]) -> dict[str, Any]:
    """What of a Script a coach writes or chooses beside the verdict's own corrections, as its page shows it."""
    main = body["prescription"]["main"]
    return {
        "cue": main["cue"] if main else "",
        "message": body["message"],
        "retest_on": body["retest_on"],
        "others": body["others"],
        "lessons": [x["fault"] for x in body["lessons"]],
    }


def filled(text: str, run: Run, coach: str) -> str:
    """A text of the club's for one rider: ``{rider}``, ``{coach}``, ``{club}`` and ``{day}``, the day of the next clip, filled in."""
    words = {
        "rider": run.rider.name.split()[0], "coach": coach, "club": run.club.name, "day": day_words(film_again(run, script_of(run))),
    }  # fmt: skip
    for name, word in words.items():
        text = text.replace(f"{{{name}}}", word)
    return text
