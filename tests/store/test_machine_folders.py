"""Folders that machines read from: a release is there whole or not at all, whatever happens on the way."""

import os
from pathlib import Path

import pytest

from tests.support.trial import TrialJob, rect
from venzo.core.edits import SetSetup
from venzo.core.release.picking import Picked
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import Dialect
from venzo.desk import machine_folders, part_releases, release_record, runs
from venzo.desk.machine_folders import _Parcel, _put, deliver, folders, set_folder, withdraw
from venzo.desk.part_releases import ReleaseSaid
from venzo.store.store import NotFound, Store

MACHINE = "small-bench"


@pytest.fixture
def share(tmp_path):
    place = tmp_path / "share"
    place.mkdir()
    return place


@pytest.fixture
def job(store, share):
    trial = TrialJob(store, (rect(200, 120, ((60, 60, 20),)), [(60, 60), (300, 60)]))
    machine = trial.setup.machine.model_copy(update={"dialect": Dialect()})
    trial.do(SetSetup(setup="main", machine=machine))
    set_folder(store, MACHINE, str(share))
    return trial


def release(job, **picked):
    said = ReleaseSaid(revision=job.store.head(job.job), picked=Picked(**picked))
    return part_releases.freeze(job.store, job.job, said)


def there(job):
    return next(f for f in folders(job.store) if f.machine == MACHINE).there


def test_it_is_put_there_told_as_new_run_and_withdrawn(job, share):
    number = release(job, side="insides")
    assert deliver(job.store, job.job, number) == ["Small Bench"]
    (line,) = there(job)
    r = release_record.released(job.store, job.job, number)
    mine = {f.name: f for f in r.files if f.setup == "main"}
    assert {p.name for p in (share / line.folder).iterdir()} == mine.keys()
    for name in mine:
        assert (share / line.folder / name).read_bytes() == release_record.file_of(
            job.store, job.job, number, name
        )
    assert "NEW, nothing of it was run" in (share / "NEW.txt").read_text()
    runs.record(job.store, job.job, runs.SheetCut(setup="main", sheet="own", release=number))
    assert "run: 1 of 1 sheet" in (share / "NEW.txt").read_text() and there(job)[0].run == 1
    rest = release(job)
    deliver(job.store, job.job, rest)
    assert [d.release for d in there(job)] == [rest, number], "what was run stays beside it"
    withdraw(job.store, job.job, rest, "not today")
    assert [d.release for d in there(job)] == [number]
    assert next((share / "old").iterdir()).name == f"{job.job}_release-{rest}"
    with pytest.raises(BadInput, match="was withdrawn"):
        deliver(job.store, job.job, rest)


def test_what_it_takes_the_place_of_is_kept_apart(job, share):
    first = release(job)
    deliver(job.store, job.job, first)
    deeper = job.setup.rules.model_copy(update={"overshoot": {**job.setup.rules.overshoot, "wood": 0.9}})
    job.do(SetSetup(setup="main", rules=deeper))
    second = release(job)
    deliver(job.store, job.job, second)
    assert [d.release for d in there(job)] == [second]
    assert [p.name for p in (share / "old").iterdir()] == [f"{job.job}_release-{first}"]
    deliver(job.store, job.job, second)  # once more: what was there is kept too
    assert (share / "old" / f"{job.job}_release-{second}").is_dir() and len(there(job)) == 1


def test_a_program_altered_or_lost_at_the_machine_is_told(job, share):
    deliver(job.store, job.job, release(job))
    (line,) = there(job)
    programs = sorted((share / line.folder).glob("*.nc"))
    programs[0].write_text(programs[0].read_text().replace("G1", "G01", 1))
    (share / line.folder / f"{job.job}_birch-plywood_labels.pdf").unlink()
    (line,) = there(job)
    assert line.altered == [programs[0].name] and line.missing == [f"{job.job}_birch-plywood_labels.pdf"]
    machine_folders.write_list(job.store, MACHINE)
    assert f"ALTERED since it was put here: {programs[0].name}" in (share / "NEW.txt").read_text()


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("programs", "give the whole way"),
        ("/no/such/folder", "there is no such folder"),
        ("DATA", "the shop's own data"),
        ("DATA/blobs", "the shop's own data"),
        ("/", "the shop's own data"),
    ],
)
def test_no_folder_but_the_machine_s_own(store, path, words):
    path = path.replace("DATA", str(store.folder))
    with pytest.raises(BadInput, match=words):
        set_folder(store, MACHINE, path)
    assert all(f.path is None for f in folders(store))
    with pytest.raises(NotFound):
        set_folder(store, "no such", "/tmp")


def test_without_a_folder_or_with_the_share_off_nothing_is_put_anywhere(job, share):
    number = release(job)
    share.rename(share.with_name("off"))
    with pytest.raises(BadInput, match=r"nothing was put anywhere: .* no such folder"):
        deliver(job.store, job.job, number)
    set_folder(job.store, MACHINE, "")
    with pytest.raises(BadInput, match="no folder is known for Small Bench"):
        deliver(job.store, job.job, number)


def killed(share, version, steps, number, *replaced):
    """Put a release there in a process of its own that dies at a call that reaches the disk; did it end by
    itself?
    """
    child = os.fork()
    if not child:
        left = [steps]

        def dying(real):
            def call(*args, **kwargs):
                left[0] -= 1
                if left[0] < 0:
                    os._exit(9)
                return real(*args, **kwargs)

            return call

        for name in ("fsync", "rename", "mkdir"):
            setattr(os, name, dying(getattr(os, name)))
        files = {f"p{k}.nc": (f"program {version} {k}" * 500).encode() for k in range(3)}
        try:
            _put(_Parcel("m", share, f"job_release-{number}", files), replaced)
        except BaseException:
            os._exit(1)
        os._exit(0)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 0


def whole(folder: Path) -> bool:
    """Are all three programs there, each to its last letter, of one version?"""
    bodies = [(folder / f"p{k}.nc").read_text() for k in range(3)]
    versions = {b.split()[1] for b in bodies}
    return len(versions) == 1 and all(
        b == f"program {next(iter(versions))} {k}" * 500 for k, b in enumerate(bodies)
    )


def test_a_power_cut_at_any_step_leaves_no_half_program(tmp_path):
    """One release is there, the next comes in its place: killed before every call that reaches the disk."""
    ended = steps = 0
    while not ended:
        share = tmp_path / str(steps)
        share.mkdir()
        assert killed(share, "a", 10_000, 1)
        ended = killed(share, "b", steps, 2, "job_release-1")
        seen = [p for p in share.iterdir() if p.is_dir() and not p.name.startswith(".") and p.name != "old"]
        assert all(whole(p) for p in seen), f"half a program after {steps} steps"
        old = list((share / "old").iterdir()) if (share / "old").exists() else []
        assert all(whole(p) for p in old)
        assert [p for p in [*seen, *old] if p.name == "job_release-1"], "what was there is not lost"
        assert killed(share, "c", 10_000, 3), "and the next one finds its way"
        assert whole(share / "job_release-3") and not list(share.glob(".venzo-coming-*"))
        steps += 1
    assert steps > 8


def test_a_share_that_refuses_is_said_and_leaves_nothing(job, share, monkeypatch):
    number = release(job)

    def full(*_args):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "rename", full)
    with pytest.raises(BadInput, match="No space left on device"):
        deliver(job.store, job.job, number)
    assert not [p for p in share.iterdir() if p.is_dir()] and not there(job)


def test_folders_are_kept_with_the_shop(job, share, tmp_path):
    again = Store(job.store.folder)
    assert next(f for f in folders(again) if f.machine == MACHINE).path == str(share)
    again.close()


def test_a_board_goes_to_its_machine_too(demo, share):
    board = demo.get("oak-plank-a").plan.surface
    machine = board.board.machine
    set_folder(demo, machine, str(share))
    part_releases.freeze(demo, "oak-plank-a", ReleaseSaid(revision=demo.head("oak-plank-a")))
    deliver(demo, "oak-plank-a", 1)
    (folder,) = [p for p in share.iterdir() if p.is_dir()]
    names = {p.name for p in folder.iterdir()}
    assert any(n.endswith(".nc") for n in names) and any(n.endswith(".pdf") for n in names)
    assert "release.json" not in names


def test_jobs_whose_names_begin_alike_never_share_a_folder():
    """File names are cut at 40 letters; folders are not."""
    long = "a-job-of-a-customer-with-a-very-long-name-indeed"
    assert machine_folders._folder_name(long, 1) != machine_folders._folder_name(f"{long}-2", 1)
