"""What may wait gives way to an edit, and goes on when it is answered."""

import threading

from venzo.core.memo import behind, give_way, memo, urgent


def test_work_behind_waits_for_urgent_work_and_then_goes_on():
    began, done = threading.Event(), threading.Event()

    def trial():
        with behind():
            began.set()
            memo("give-way-test", "a", lambda: 1)
            done.set()

    with urgent():
        t = threading.Thread(target=trial)
        t.start()
        began.wait()
        assert not done.wait(0.2), "it made its stage while an edit was under way"
        assert memo("give-way-test", "b", lambda: 2) == 2, "the edit itself does not wait"
    t.join(5)
    assert done.is_set()


def test_urgent_work_that_fails_lets_the_others_go_on():
    try:
        with urgent():
            raise ValueError
    except ValueError:
        pass
    with behind():
        give_way()
