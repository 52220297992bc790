"""One Telling for many: what was told to all of them, with each rider's own frames and numbers."""

from __future__ import annotations

from proklisis.core.shapes.telling import Passage, Telling

#: Acts that show nothing of a run.
OF_NOBODY = ("card", "figure")
#: Passages of a proposed Telling that are a rider's own, whatever is shown in them.
THEIRS = ("good", "since", "intention", "none", "target")


def for_all(passage: Passage) -> bool:
    """Whether a passage shows nothing of the run that it was told on."""
    own = passage["id"] in THEIRS or passage["id"].startswith("evidence")
    return not own and all(a["act"] in OF_NOBODY for a in passage["acts"])


def spread(told: Telling, proposed: Telling, own: Telling) -> Telling:
    """A rider's own Telling with what was told to all.

    Parameters
    ----------
    told : what a coach told on one run
    proposed : what stood ready for that run; words that are still as they were proposed hold that run's numbers
    own : what stands ready for the other run
    """
    was = {p["id"]: p["caption"] for p in proposed["passages"]}
    out = list(own["passages"])
    at = 0
    for p in told["passages"]:
        place = next((k for k, x in enumerate(out) if x["id"] == p["id"]), None)
        if place is not None:
            if for_all(p):
                mine = out[place]
                caption = mine["caption"] if p["caption"] == was.get(p["id"]) else p["caption"]
                longer = max(p["length_s"], mine["length_s"])
                out[place] = {
                    **p,
                    "caption": caption,
                    "length_s": p["length_s"] if p.get("sound") else longer,
                }
            at = place + 1
        elif for_all(p):
            out.insert(at, p)
            at += 1
    return {**own, "passages": out}
