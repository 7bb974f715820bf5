"""Commands that hand a whole job on."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from venzo.cli.shared import Data, Json, app, bytes_of, folder_of, job_in, say, store_in
from venzo.core.snags import BadInput
from venzo.core.voice import counted


@app.command()
def export(
    job: str,
    output: Annotated[Path, typer.Option("-o", help="the archive to write")],
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Write a stored job with all that belongs to it as one open archive."""
    from venzo.desk import archives

    store = store_in(data)
    revision = job_in(store, job)
    body = archives.export(store, revision)
    try:
        output.write_bytes(body)
    except OSError as e:
        raise BadInput(f"-o {output}: cannot be written ({e.strerror}); choose another name") from e
    document = {"job": revision.plan.id, "revision": revision.number, "bytes": len(body)}
    size = f"{len(body) / 1e6:.2f} MB"
    say(document, as_json, [f"{output}: {revision.plan.name}, change {revision.number}, {size}"])


@app.command("import")
def bring_in(
    archive: Path,
    data: Data = None,
    bring: Annotated[bool, typer.Option("--bring", help="enter what the library lacks")] = False,
    as_json: Json = False,
) -> None:
    """Bring a job in from its archive, into a shop that is there or is begun with it."""
    from venzo.desk import archives
    from venzo.store.store import Store

    body = bytes_of(archive)
    folder = folder_of(data)
    store = store_in(data) if (folder / "venzo.db").exists() else Store(folder)
    found = archives.bring_in(store, body, archive.name, bring)
    lines = [f"{found.name}: job {found.job}, change {found.revision}"]
    lines += ["  all that follows from it is the same here"] if found.same else []
    lines += [f"  differs here: {x}" for x in found.differs]
    lines += [f"  otherwise in this shop, offered at the job: {x}" for x in found.others]
    lines += [f"  of a lot of the other rack, of none here: {x}" for x in found.let_go]
    if found.brought:
        lines.append(f"  {counted(len(found.brought), 'thing')} entered: {', '.join(found.brought)}")
    say(found.model_dump(mode="json"), as_json, lines)
