"""Any story of edits, undo, redo, stale edits and restarts, told beside a plain list of plans: the store and
the list never disagree, and no revision ever changes.
"""

import copy
import tempfile
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from tests.conftest import MANY
from tests.store.test_command_algebra import Case
from tests.support.library_shop import library_shop
from venzo.core.edits import RenameJob, SetQuantity
from venzo.core.snags import BadInput
from venzo.store.store import Conflict, Store

picks = st.integers(0, 10_000)


class Story(RuleBasedStateMachine):
    """``plans``: every state there was, by the number of its revision; ``done``: those that undo walks back
    through, ``undone``: those that redo brings back.
    """

    @initialize()
    def start(self):
        self.kept = tempfile.TemporaryDirectory(prefix="venzo-story-")
        self.folder = Path(self.kept.name)
        self.store = library_shop(self.folder)
        self.case = Case(self.store)
        self.job = self.case.job
        self.commands = self.case.all()
        head = self.store.get(self.job)
        self.plans = {head.number: head.plan}
        self.first = head.number
        self.before = self.store.history(self.job, limit=2000)
        self.done, self.undone = [head.plan], []

    def teardown(self):
        if hasattr(self, "store"):
            self.store.close()
            self.kept.cleanup()

    def learn(self, revision):
        assert revision.number == max(self.plans) + 1, "numbers go up by one"
        self.plans[revision.number] = revision.plan

    @rule(pick=picks)
    def edit(self, pick):
        """Any command on the newest revision: done, or refused with nothing changed."""
        command = self.commands[pick % len(self.commands)]
        head = self.store.get(self.job)
        try:
            wanted = command.apply(head.plan)
            done = self.store.apply(self.job, head.number, command)
        except BadInput:
            assert self.store.get(self.job) == head
            return
        assert done.plan == wanted
        self.learn(done)
        self.done.append(done.plan)
        self.undone = []

    @precondition(lambda self: len(self.done) > 1)
    @rule()
    def undo(self):
        self.undone.append(self.done.pop())
        back = self.store.undo(self.job)
        assert back.plan == self.done[-1]
        self.learn(back)

    @precondition(lambda self: self.undone)
    @rule()
    def redo(self):
        forth = self.store.redo(self.job)
        self.done.append(self.undone.pop())
        assert forth.plan == self.done[-1]
        self.learn(forth)

    @precondition(lambda self: not self.undone)
    @rule()
    def nothing_to_redo(self):
        with pytest.raises(BadInput, match="nothing to redo"):
            self.store.redo(self.job)

    @precondition(lambda self: len(self.plans) > 2)
    @rule(pick=picks, back=st.integers(1, 4))
    def edit_an_older_revision(self, pick, back):
        """Put on top of what was done meanwhile, or told that it meets it; never in the place of it."""
        command = self.commands[pick % len(self.commands)]
        head = self.store.get(self.job)
        base = max(self.first, head.number - back)
        try:
            wanted = command.apply(head.plan)
            done = self.store.apply(self.job, base, command)
        except (BadInput, Conflict):
            assert self.store.get(self.job) == head
            return
        assert done.plan == wanted
        self.learn(done)
        self.done.append(done.plan)
        self.undone = []

    @rule()
    def restart(self):
        """The process ends and another opens the folder."""
        self.store.close()
        self.store = Store(self.folder)

    @rule(name=st.text(st.characters(codec="utf-8", exclude_categories=["Cs"]), min_size=1, max_size=30))
    def rename(self, name):
        head = self.store.get(self.job)
        try:
            command = RenameJob(name=name)
            done = self.store.apply(self.job, head.number, command)
        except ValueError:  # a name that is none
            assert self.store.get(self.job) == head
            return
        assert done.plan.name == command.name
        self.learn(done)
        self.done.append(done.plan)
        self.undone = []

    @rule(count=st.integers(-2, 12_000))
    def count(self, count):
        head = self.store.get(self.job)
        part = self.case.c if any(p.id == self.case.c for p in head.plan.parts) else self.case.a
        try:
            command = SetQuantity(part=part, order="order-1", quantity=count)
            done = self.store.apply(self.job, head.number, command)
        except ValueError:
            assert self.store.get(self.job) == head
            return
        assert done.plan.part(part).quantity >= count >= 0
        self.learn(done)
        self.done.append(done.plan)
        self.undone = []

    @invariant()
    def the_newest_is_what_was_done_last(self):
        if not hasattr(self, "plans"):
            return
        head = self.store.get(self.job)
        assert head.number == max(self.plans) == self.store.head(self.job)
        assert head.plan == self.done[-1] and head.can_redo == bool(self.undone)

    @invariant()
    def no_revision_ever_changes(self):
        if not hasattr(self, "plans"):
            return
        for number in sorted(self.plans)[-3:]:
            assert self.store.get(self.job, number).plan == self.plans[number]
        lines = self.store.history(self.job, limit=2000)
        assert [line["revision"] for line in lines] == list(range(max(self.plans), 0, -1))
        old = lines[-len(self.before) :]
        assert old == self.before


Story.TestCase.settings = settings(
    max_examples=4 * MANY, stateful_step_count=12, deadline=None, derandomize=MANY == 1
)
TestStory = Story.TestCase


def test_the_list_that_is_told_beside_it_is_not_the_store_s_own(tmp_path):
    """A plan that is answered can be changed by nobody: what is remembered is what was stored."""
    store = library_shop(tmp_path / "shop")
    case = Case(store)
    kept = copy.deepcopy(case.plan)
    with pytest.raises((TypeError, ValueError, AttributeError)):
        case.plan.name = "changed"
    assert store.get(case.job).plan == kept
    store.close()
