"""``caracal desk``: a stand-in for a destination, to rehearse a delivery."""

from __future__ import annotations

import argparse
import json
from datetime import datetime

import msgspec

from caracal.core.base.translation import tr
from caracal.core.desk.desk import Desk, Entry, Post
from caracal.core.specs.sheet_store import find_sheet


def deliver(asked: argparse.Namespace) -> int:
    """Hand a bundle to the desk; exit code 1 when it refuses."""
    post = Post(asked.title, asked.text, tuple(asked.tag or ()), asked.date)
    answers = Desk(asked.outbox).receive(asked.bundle, find_sheet(asked.spec), post,
                                         tuple(asked.files or ()))
    if asked.json:
        print(json.dumps([msgspec.to_builtins(answer) for answer in answers], indent=1))
    else:
        for answer in answers:
            print(f"{tr('accepted') if answer.accepted else tr('REFUSED')}  {answer.file}")
            for reason in answer.reasons:
                print(f"    {reason}")
    return 0 if all(answer.accepted for answer in answers) else 1


def list_entries(asked: argparse.Namespace) -> int:
    """The schedule, or only what is due."""
    desk = Desk(asked.outbox)
    entries = desk.due(datetime.now()) if asked.due else desk.entries()
    if asked.json:
        print(json.dumps([msgspec.to_builtins(entry) for entry in entries], indent=1))
    else:
        for entry in entries:
            print(_line(entry))
    return 0


def withdraw(asked: argparse.Namespace) -> int:
    """Take an entry out of the outbox."""
    print(tr("Withdrawn: {line}", line=_line(Desk(asked.outbox).withdraw(asked.id))))
    return 0


def _line(entry: Entry) -> str:
    return f"{entry.id}  {entry.post.date or tr('at once'):16}  {entry.post.title}  {entry.file}"
