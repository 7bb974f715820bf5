"""Commands on stored jobs."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from venzo.cli.shared import Data, Json, app, job_in, say, snag_lines, store_in
from venzo.core.voice import counted


@app.command()
def plan(job: str, data: Data = None, as_json: Json = False) -> None:
    """A stored job's derivations: layout, cuts, snags, yield."""
    from venzo.desk import jobs
    from venzo.desk.holding import sheet_holding

    store = store_in(data)
    revision = job_in(store, job)
    document: dict[str, Any] = {
        "job": revision.plan.id,
        "name": revision.plan.name,
        "revision": revision.number,
        "setups": [],
    }
    lines = [f"{revision.plan.name}, revision {revision.number}"]
    stops = 0
    for d in jobs.derive(store, revision.plan).values():
        snags = [s.plain() for s in d.snags]
        stops += sum(s["severity"] == "stop" for s in snags)
        document["setups"].append(
            {
                "id": d.setup.id,
                "name": d.setup.name,
                "layout": d.layout.state,
                "unplaced": d.layout.unplaced,
                "snags": snags,
                "yield": d.yields.model_dump(mode="json"),
                "cutters": d.cutters_used,
                "cuts": [
                    {
                        "sheet": s.sheet,
                        "sheet_copy": s.copy_no,
                        "seconds": s.seconds,
                        "hold": held.model_dump(mode="json") if (held := sheet_holding(h)) else None,
                        "order": [
                            {
                                "name": c.name,
                                "piece": c.piece.id,
                                "contour": c.cut.contour,
                                "cutter": c.cut.cutter,
                                "begins": round(c.begins, 2),
                                "seconds": round(c.seconds, 2),
                                "levels": list(c.cut.levels),
                                "tabs": len(c.cut.tabs),
                            }
                            for c in s.cuts
                        ],
                    }
                    for s, h in zip(d.sheets, d.holds, strict=True)
                ],
            }
        )
        y = d.yields
        lines.append(
            f"  {d.setup.name}: layout {d.layout.state}, {counted(y.pieces, 'piece')} on"
            f" {counted(len(y.sheets), 'sheet')},"
            f" {y.utilisation:.1%} used, {y.seconds / 60:.1f} min"
        )
        lines += ["  " + line for line in snag_lines(snags)]
    say(document, as_json, lines)
    raise typer.Exit(1 if stops else 0)


@app.command("yield")
def yields(job: str, data: Data = None, as_json: Json = False) -> None:
    """What a stored job takes of its sheets, what is kept, and what it costs."""
    from venzo.desk import jobs
    from venzo.desk.yields import job_use

    store = store_in(data)
    revision = job_in(store, job)
    use = job_use(store, revision.plan)
    lines = [f"{revision.plan.name}, revision {revision.number}"]
    for s in use.sheets:
        a = s.area_mm2
        shares = ", ".join(f"{k} {a[k] / a['sheet']:.1%}" for k in a if k != "sheet")
        lines.append(f"  {s.sheet} {s.sheet_copy + 1}: {shares}")
    total = use.cost.get("total")
    money = f"{total:.2f} {use.currency}".strip() if total is not None else "not known"
    lines.append(f"  {counted(use.job.pieces, 'piece')} of {counted(use.job.sheets, 'sheet')}, cost {money}")
    lines += [f"  no price yet: {x}" for x in use.lacks]
    say(use.model_dump(mode="json"), as_json, lines)
    derived = jobs.derive(store, revision.plan, False).values()
    at_fault = any(d.layout.unplaced or any(s.severity == "stop" for s in d.snags) for d in derived)
    raise typer.Exit(1 if at_fault else 0)


@app.command()
def release(
    job: str,
    output: Annotated[Path, typer.Option("-o", help="folder for programs and papers")],
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Write a stored job's programs and papers into a folder."""
    from venzo.desk import releases

    store = store_in(data)
    revision = job_in(store, job)
    files, manifest = releases.release(store, revision.plan, revision.number)
    output.mkdir(parents=True, exist_ok=True)
    for name, body in files:
        (output / name).write_bytes(body)
    lines = [f"{counted(len(files), 'file')} in {output}"] + [f"  {n}" for n, _b in files]
    for s in manifest.setups:
        lines += [f"  leaves out: {w}" for w in s.leaves_out] + [f"  stop: {w}" for w in s.stops]
    say(manifest.model_dump(mode="json"), as_json, lines)
    raise typer.Exit(1 if any(s.stops for s in manifest.setups) else 0)
