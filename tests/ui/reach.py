"""Ways from a window to what is on it: stops by name, and their pages as if looked at."""

from blunt_ruler.core.records.edits import Edit, decide, give_reason, give_role, rename_rig

PAGES = {
    "Bench": {
        "shelf": "Shelf",
        "ladder_page": "Ladder",
        "preflight_page": "Pre-flight",
        "changes": "Changes",
        "machine_page": "Machine",
    },
    "Plan": {"matrix_page": "Matrix", "order_page": "Order", "times_page": "Times"},
    "Runs": {
        "work": "At work",
        "list": "All runs",
        "findings": "Findings",
        "lines": "Thresholds",
    },
    "Board": {
        "cells": "Cells",
        "scaling": "Scaling",
        "playable": "Playable",
        "scores": "Scores",
        "references": "References",
        "link": "Link",
    },
    "Limits": {
        "cells": "Cells",
        "loss": "Loss",
        "what_if": "What if",
        "ceiling": "Ceiling",
        "next": "Next test",
    },
    "Worth": {
        "value": "Value",
        "prices": "Prices",
        "running": "Running",
        "verdict": "Verdict",
    },
    "Write-up": {
        "preview": "Preview",
        "disclosures": "Disclosures",
        "points": "For and against",
        "narration": "Narration",
    },
}


def every_page(window, settle):
    """Show each page of each stop; yields the names of both while it is on screen."""
    for name in PAGES:
        window.go_to(name)
        settle(window)
        stop = window.controllers[name].stop
        for page in tuple(stop._factories):
            stop.show_page(page)
            settle(window)
            yield name, page


class Reached:
    """A stop whose pages are attributes; one that is not on screen is brought up to date."""

    def __init__(self, view, pages):
        self.view, self._pages = view, pages

    def __getattr__(self, name):
        if name not in self._pages:
            return getattr(self.view, name)
        page = self.view.page(self._pages[name])
        if self.view.current != self._pages[name] and self.view.snapshot is not None:
            page.show_snapshot(self.view.snapshot)
        return page


def stop(window, name):
    """A stop of the rail."""
    return Reached(window.controllers[name].stop, PAGES[name])


class Hand:
    """Edits by name on a window's desk, as its views make them."""

    def __init__(self, window):
        self.desk = window.desk

    def put(self, label, *records, drop=()):
        self.desk.apply(Edit(label, tuple(records), tuple(drop)))

    def rename_rig(self, rig_id, name):
        self.desk.apply(rename_rig(self.desk.snapshot.contents, rig_id, name))

    def give_role(self, rig_id, role):
        snapshot = self.desk.snapshot
        self.desk.apply(give_role(snapshot.contents, snapshot.review, rig_id, role))

    def decide(self, run, decision):
        self.desk.apply(decide(run, decision=decision))

    def give_reason(self, run, reason):
        self.desk.apply(give_reason(run, reason))
