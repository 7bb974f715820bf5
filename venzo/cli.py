"""The command line: the same abilities without a browser (CONTRACT.md).

Exit codes: 0 done; 2 bad input; 1 done, but with a *stop* snag or pieces left unplaced.
"""

from __future__ import annotations

import json
import os
import sys
import threading
import time
from pathlib import Path
from typing import Annotated, Any

import typer

from venzo.core.snags import BadInput

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, help="From drawings to nested, held, ordered and proven programs.")
Json = Annotated[bool, typer.Option("--json", help="one JSON document on stdout")]
Data = Annotated[Path | None, typer.Option("--data", help="folder of the shop's data")]


def _started() -> float:
    """When this process started (epoch seconds), so that a time limit covers start-up as well."""
    try:
        ticks = float(Path("/proc/self/stat").read_text().rsplit(")", 1)[1].split()[19])
        boot = next(float(line.split()[1]) for line in Path("/proc/stat").read_text().splitlines() if line.startswith("btime"))
        began = boot + ticks / os.sysconf("SC_CLK_TCK")
        return began if 0 <= time.time() - began < 60 else time.time()
    except (OSError, ValueError, IndexError, StopIteration):
        return time.time()


def _folder(data: Path | None, name: str = "data") -> Path:
    if data:
        return data
    named = os.environ.get("VENZO_DATA")
    return Path(named) if named else Path.cwd() / f"venzo-{name}"


def _say(document: Any, as_json: bool, lines: list[str]) -> None:
    if as_json:
        print(json.dumps(document))
    else:
        for line in lines:
            print(line)


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as e:
        raise BadInput(f"{path}: cannot be read ({e.strerror}); check the name and the rights") from e


def _snag_lines(snags: list[dict[str, Any]]) -> list[str]:
    return [f"{s['severity']}: {s['message']}" for s in snags]


@app.command()
def intake(file: Path, units: str = "auto", join: float = 0.05, as_json: Json = False) -> None:
    """Read a drawing and list the parts in it."""
    from venzo.core.parts.intake import read_file, take_in

    found = take_in(read_file(_read(file), file.name), file.name, units, join)
    document = found.to_json()
    lines = [f"{file.name}: {document['units']}, {len(document['parts'])} parts, {document['open_contours']} open lines"]
    for p in document["parts"]:
        b = p["bbox_mm"]
        lines.append(f"  {p['quantity']:4d} x {p['name']}: {b[2] - b[0]:.2f} x {b[3] - b[1]:.2f} mm, {p['holes']} holes, {p['area_mm2'] / 100:.2f} cm2")
    _say(document, as_json, lines + _snag_lines(document["snags"]))
    raise typer.Exit(1 if any(s["severity"] == "stop" for s in document["snags"]) else 0)


@app.command()
def nest(problem: Path, seconds: float = 10.0, seed: int = 0, output: Annotated[Path | None, typer.Option("-o")] = None, as_json: Json = False) -> None:
    """Nest a problem file (CONTRACT.md) within so many seconds of wall time."""
    began = _started()
    from pydantic import ValidationError

    from venzo.core.edits_base import plain_error
    from venzo.core.nesting.engine import Search
    from venzo.core.nesting.problem import NestProblem

    if not 0 < seconds <= 86_400:
        raise BadInput(f"--seconds {seconds:g}: give a time above 0 and up to 86400 seconds")
    try:
        asked = NestProblem.model_validate_json(_read(problem))
    except ValidationError as e:
        raise BadInput(f"{problem.name}: {plain_error(e)}; see the nest problem in the contract") from e
    search = Search(asked, seed)
    deadline = began + seconds - 0.25

    def late() -> bool:
        return time.time() > deadline and asked.steps is None

    while search.step(late, search.steps / asked.steps if asked.steps else (time.time() - began) / seconds):
        if (asked.steps is not None and search.steps >= asked.steps) or late():
            break
    result = search.best
    assert result is not None
    result.seconds = round(time.time() - began, 3)
    document = result.to_json()
    if output:
        output.write_text(json.dumps(document))
    placed = len(result.placements)
    _say(
        document,
        as_json or not output,
        [
            f"{placed} pieces on {len(result.sheets)} sheets in {result.steps} steps",
            *(f"  {u.sheet}/{u.sheet_copy}: {u.used_length:.1f} mm used, {u.utilisation:.1%}" for u in result.sheets),
            *(f"  not placed: {u.quantity} x {u.part}: {u.reason}" for u in result.unplaced),
        ],
    )
    raise typer.Exit(1 if result.unplaced else 0)


def _opt(text: str, *names: str) -> Any:
    return typer.Option(*names, help=text)


@app.command()
def vcarve(
    file: Path,
    angle: Annotated[float, _opt("included angle of the bit as measured, degrees")],
    bit_diameter: Annotated[float, _opt("mm")],
    output: Annotated[Path, _opt("program to write", "-o")],
    tip_flat: float = 0.0,
    tip_radius: float = 0.0,
    max_depth: float | None = None,
    floor_depth: float | None = None,
    clear_diameter: Annotated[float | None, _opt("of the end mill that clears floors, mm")] = None,
    below: Annotated[float, _opt("reckoned from a plane so much lower, mm")] = 0.0,
    step_down: Annotated[float | None, _opt("deepest pass of the bit, mm; a light pass at full depth follows")] = None,
    ridge: Annotated[float | None, _opt("height of ridges on floors that the bit clears, mm")] = None,
    line_depth: Annotated[float | None, _opt("engrave open lines this deep, mm")] = None,
    thickness: Annotated[float | None, _opt("of the stock, mm")] = None,
    units: str = "auto",
    join: float = 0.05,
    feed: float = 2400.0,
    plunge: float = 900.0,
    rpm: float = 18_000.0,
    inch: bool = False,
    as_json: Json = False,
) -> None:
    """V-carve all closed outlines of a drawing."""
    from venzo import carving
    from venzo.core.carving.bit import Bit

    bit = Bit(angle, bit_diameter, tip_flat, tip_radius)
    depths = carving.Depths(max_depth, floor_depth, clear_diameter, below, step_down, ridge=ridge)
    if line_depth is not None and not 0 < line_depth <= 100:
        raise BadInput(f"--line-depth {line_depth:g}: give a depth above 0 and up to 100 mm")
    _written(carving.vcarve(_read(file), file.name, bit, depths, carving.Feeds(feed, plunge, rpm), units, join, inch, line_depth, thickness), output, as_json)


@app.command()
def inlay(
    file: Path,
    angle: Annotated[float, _opt("included angle of the bit as measured, degrees")],
    bit_diameter: Annotated[float, _opt("mm")],
    output: Annotated[Path, _opt("folder for the two programs", "-o")],
    depth: Annotated[float, _opt("of the socket, mm")] = 4.0,
    gap: Annotated[float, _opt("for glue under the plug, mm")] = 0.4,
    saw: Annotated[float, _opt("room to saw the plug off, mm")] = 1.5,
    clear_diameter: Annotated[float | None, _opt("of the end mill that clears floors, mm")] = None,
    tip_flat: float = 0.0,
    units: str = "auto",
    feed: float = 2400.0,
    plunge: float = 900.0,
    rpm: float = 18_000.0,
    inch: bool = False,
    as_json: Json = False,
) -> None:
    """Socket and plug of an inlay from one drawing."""
    from venzo import carving
    from venzo.core.carving.bit import Bit
    from venzo.core.carving.inlay import inlay as pair_of
    from venzo.core.carving.inlay import mating, mating_snags

    area, _lines, snags = carving.drawn_area(_read(file), file.name, units)
    pair = pair_of(area, Bit(angle, bit_diameter, tip_flat), depth, gap, saw, clear=clear_diameter)
    feeds_ = carving.Feeds(feed, plunge, rpm)
    made = {
        "socket": carving.program(pair.socket, feeds_, f"{file.name}, socket", inch),
        "plug": carving.program(pair.plug, feeds_, f"{file.name}, plug, mirrored", inch, shift=(-pair.board[0], -pair.board[1])),
    }
    output.mkdir(parents=True, exist_ok=True)
    for name, m in made.items():
        (output / f"{file.stem}_{name}.nc").write_text(m.text)
    b = area.bounds
    fit = mating(pair, max(0.05, max(b[2] - b[0], b[3] - b[1]) / 600), 0.06)
    board = [round(pair.board[2] - pair.board[0], 2), round(pair.board[3] - pair.board[1], 2)]
    found: list[dict[str, Any]] = [s.plain() for s in (*snags, *mating_snags(fit), *(s for m in made.values() for s in m.snags if s.severity == "stop"))]
    document = {**{k: m.to_json() for k, m in made.items()}, "mating": {k: round(v, 4) for k, v in vars(fit).items()}, "plug_board_mm": board, "snags": found}
    lines = [f"{output / f'{file.stem}_{k}.nc'}: {m.cut_length / 1000:.2f} m cut, {m.seconds / 60:.1f} min, {m.deepest:.2f} mm deep" for k, m in made.items()]
    _say(document, as_json, [*lines, f"overlap {fit.overlap:.2f} mm3, gap under the plug {fit.floor_gap:.2f} mm, {fit.saw:.2f} mm to saw in", *_snag_lines(found)])
    raise typer.Exit(1 if any(s["severity"] == "stop" for s in found) else 0)


@app.command()
def surface(
    width: Annotated[float, _opt("mm")],
    height: Annotated[float, _opt("mm")],
    cutter: Annotated[float, _opt("diameter, mm")],
    stepover: Annotated[float, _opt("percent of the diameter")],
    depth: Annotated[float, _opt("mm a pass")],
    output: Annotated[Path, _opt("program to write", "-o")],
    feed: Annotated[float, _opt("mm/min")],
    rpm: Annotated[float, _opt("of the spindle")],
    passes: int = 1,
    overrun: float = 0.0,
    pattern: str = "rows",
    ways: Annotated[str, _opt("both ways, climb or conventional")] = "both ways",
    along: Annotated[str, _opt("x, y or longer")] = "longer",
    start: Annotated[float, _opt("mm already taken off since Z was set")] = 0.0,
    finish_depth: float = 0.0,
    finish_stepover: float = 15.0,
    plunge: float | None = None,
    dead: Annotated[list[str] | None, _opt("X0,Y0,X1,Y1[,HEIGHT[,MARGIN]] that the cutter must not enter and is lifted over; may be given several times")] = None,
    inch: bool = False,
    as_json: Json = False,
) -> None:
    """Surface a board or spoilboard in passes."""
    from pydantic import ValidationError

    from venzo import surfacing
    from venzo.core.edits_base import plain_error
    from venzo.core.surfacing.board import KeepOut, Surfacing

    try:
        given = {"cutter": cutter, "step_over": stepover / 100, "depth": depth, "passes": passes, "overrun": overrun, "pattern": pattern, "ways": ways, "along": along}
        more = {"start": start, "finish_depth": finish_depth, "finish_step_over": finish_stepover / 100, "feed": feed, "rpm": rpm, "plunge": plunge or min(feed, 1500.0)}
        asked = Surfacing.model_validate({**given, **more})
    except ValidationError as e:
        raise BadInput(f"surface: {plain_error(e)}") from e
    places = []
    for text in dead or []:
        try:
            numbers = [float(v) for v in text.split(",")]
            x0, y0, x1, y1 = numbers[:4]
            places.append(KeepOut.model_validate([min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1), *numbers[4:]]))
        except ValidationError as e:
            raise BadInput(f"--dead {text}: {plain_error(e)}") from e
        except ValueError:
            raise BadInput(f"--dead {text}: give X0,Y0,X1,Y1 and if need be its HEIGHT over Z 0 and the MARGIN round it, in mm") from None
    _written(surfacing.surface(width, height, asked, inch, places), output, as_json)


def _written(made: Any, output: Path, as_json: bool) -> None:
    """Write a program and print its figures."""
    try:
        output.write_text(made.text)
    except OSError as e:
        raise BadInput(f"-o {output}: cannot be written ({e.strerror}); choose another name") from e
    document = made.to_json()
    lines = [f"{output}: {made.cut_length / 1000:.2f} m cut, {made.seconds / 60:.1f} min, {made.deepest:.2f} mm deep"]
    _say(document, as_json, lines + _snag_lines(document["snags"]))
    raise typer.Exit(1 if any(s["severity"] == "stop" for s in document["snags"]) else 0)


@app.command()
def prove(
    files: Annotated[list[Path], typer.Argument(help="programs, run in order on one sheet", metavar="PROGRAM...")],
    sheet: Annotated[str | None, _opt("WIDTHxHEIGHTxTHICKNESS, mm")] = None,
    origin: Annotated[str, _opt("where the program's X0 Y0 lies on the sheet, X,Y in mm")] = "0,0",
    zero: Annotated[str, _opt("where Z 0 lies: top or bed")] = "top",
    tool: Annotated[list[str] | None, _opt("[N=]kind:mm[:...], as in 1=flat:6.35; may be given several times")] = None,
    envelope: Annotated[str | None, _opt("what the machine's axes travel, WIDTHxHEIGHTxZ, mm")] = None,
    sheet_at: Annotated[str, _opt("the sheet's lower left corner in the envelope, X,Y in mm")] = "0,0",
    accel: Annotated[float, _opt("mm/s2")] = 800.0,
    rapid: Annotated[float, _opt("mm/min")] = 20_000.0,
    deviation: Annotated[float, _opt("mm by which the controller rounds corners")] = 0.02,
    job: Annotated[str | None, _opt("hold it against this stored job's plan")] = None,
    on: Annotated[str, _opt("SHEET[:COPY] of that job")] = "",
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Read programs as a controller would and prove them: against a sheet, or against a stored job's plan."""
    from venzo import prove as proving
    from venzo.core.proof.world import Axes

    for what, v, most in (("--accel", accel, 50_000), ("--rapid", rapid, 200_000), ("--deviation", deviation, 10)):
        if not 0 < v <= most:
            raise BadInput(f"{what} {v:g}: give a number above 0 and up to {most}")
    texts = [(f.name, _text(f)) for f in files]
    if job is not None:
        if len(texts) > 1:
            raise BadInput(f"--job {job}: one program at a time is held against a plan; {len(texts)} are named")
        found = proving.prove_against(_store(data), _job(_store(data), job).plan, *texts[0], on)
    elif sheet is None:
        raise BadInput("say what the program is held against: --sheet WIDTHxHEIGHTxTHICKNESS, or --job with a stored job")
    else:
        if zero not in ("top", "bed"):
            raise BadInput(f"--zero {zero}: top or bed")
        if not tool:
            raise BadInput("name the cutters with --tool, as in --tool 1=flat:6.35")
        x, y = proving.numbers(origin, "--origin", 2, ",")
        world = proving.world_of(sheet, tool, envelope, sheet_at, Axes(accel, rapid, deviation))
        found = proving.prove_programs(texts, world, (x, y), zero == "bed")
    document = found.to_json()
    lines = [f"{found.sums.moves} moves, {found.sums.cut_length / 1000:.2f} m cut, {found.sums.seconds / 60:.1f} min" + (f", held against {found.file}" if found.file else "")]
    _say(document, as_json, lines + _snag_lines(document["snags"]))
    raise typer.Exit(1 if any(s["severity"] == "stop" for s in document["snags"]) else 0)


def _text(path: Path) -> str:
    """A program file as text; what is not is refused later, where it is read."""
    return _read(path).decode("utf-8", "replace")


_TOOL = {"flat": "up-cut", "bull": "bowl", "vee": "v-bit", "v": "v-bit", "taper": "tapered ball"}
"""Short names of kinds, beside the library's own."""


@app.command()
def feeds(
    material: Annotated[str, typer.Option(help="wood, plastic, aluminium, steel, or a material's name")],
    tool: Annotated[str, typer.Option(help="kind:diameter[:flutes], mm")],
    rpm: float | None = None,
    feed: Annotated[float | None, typer.Option(help="mm/min")] = None,
    machine: str | None = None,
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Speeds and feeds: what the numbers come to, whether they lie in the window, and which way to turn them."""
    from venzo.core.feeds.adviser import advise, metres
    from venzo.core.rules.house import HouseRules
    from venzo.core.stock.known import KNOWN, find
    from venzo.core.stock.machine import Machine
    from venzo.core.stock.material import Material

    cutter = _tool(tool)
    families = {"wood": 680.0, "plastic": 1190.0, "aluminium": 2700.0, "steel": 7850.0}
    word = {"aluminum": "aluminium"}.get(material.lower(), material.lower())
    folder = _folder(data)
    shop_has = (folder / "venzo.db").exists()
    stock: Material | None = Material(id=word, name=word, family=word, density=families[word]) if word in families else None  # type: ignore[arg-type]
    if stock is None and shop_has:
        own = [Material.model_validate(m) for m in _store(data).library("material")]
        stock = next((m for m in own if material.lower() in (m.id.lower(), m.name.lower())), None)
    stock = stock or find(material)
    if stock is None:
        raise BadInput(f"--material {material}: not known; use {', '.join(families)}, or one of {', '.join(m.name for m in KNOWN)}")
    on = None
    if machine:
        known = [Machine.model_validate(m) for m in _store(data).library("machine")] if shop_has else _demo_machines()
        on = next((m for m in known if machine.lower() in (m.id.lower(), m.name.lower())), None)
        if on is None:
            raise BadInput(f"--machine {machine}: the library has {', '.join(m.name for m in known)}")
    house = HouseRules()
    if shop_has:
        from venzo import library

        house = library.rules(_store(data)) if on is not None else house
    a = advise(cutter, stock, house, on, rpm, feed)
    document = {
        "chip_load_mm": round(a.chip_load, 6),
        "surface_speed_m_min": round(a.surface_speed, 3),
        "rpm": round(a.rpm, 3),
        "feed_mm_min": round(a.feed, 3),
        "plunge_mm_min": round(a.plunge, 3),
        "max_step_down_mm": round(a.step_down, 4),
        "snags": [s.plain() for s in a.snags],
        "window": {"chip_load_mm": list(a.window.chip), "chip_load_source": a.window.chip_source, "surface_speed_m_min": list(a.window.speed), "surface_speed_source": a.window.speed_source},
        "feed_in_min": round(a.feed / 25.4, 3),
        "feed_in_s": round(a.feed / 25.4 / 60, 4),
        "step_down_rule": a.step_reason,
        "power_w": round(a.power, 1),
        "force_n": round(a.force, 1),
        "bend_mm": round(a.bend, 4),
    }
    lines = [
        f"{cutter.name} in {stock.name}: {a.rpm:.0f} rpm, {metres(a.feed)}, {a.feed / 25.4 / 60:.2f} in/s",
        f"  chip {a.chip_load:.3g} mm a tooth (window {a.window.chip[0]:.3g} to {a.window.chip[1]:.3g}: {a.window.chip_source})",
        f"  edge {a.surface_speed:.0f} m/min (window {a.window.speed[0]:.0f} to {a.window.speed[1]:.0f}: {a.window.speed_source})",
        f"  at most {a.step_down:g} mm a pass: {a.step_reason}; plunge {metres(a.plunge)} ({a.plunge_reason})",
    ]
    _say(document, as_json, lines + [f"{s.severity}: {s.message}" for s in a.snags])
    raise typer.Exit(1 if any(s.severity == "stop" for s in a.snags) else 0)


def _demo_machines() -> list[Any]:
    from venzo.demo.library import MACHINES

    return MACHINES


def _tool(text: str) -> Any:
    """A cutter from ``kind:diameter[:flutes]``."""
    from typing import get_args

    from pydantic import ValidationError

    from venzo.core.edits_base import plain_error
    from venzo.core.tooling.cutter import Cutter, Kind

    fields = text.split(":")
    kinds = get_args(Kind)
    wanted = fields[0].strip().lower().replace("_", " ")
    kind = _TOOL.get(wanted) or next((k for k in kinds if k.replace("-", " ") == wanted.replace("-", " ")), None)
    if kind is None:
        raise BadInput(f"--tool {text}: {fields[0]!r} is not a kind of cutter; use one of {', '.join([*_TOOL, *kinds])}")
    try:
        diameter = float(fields[1])
        flutes = int(fields[2]) if len(fields) > 2 else 2
    except (IndexError, ValueError):
        raise BadInput(f"--tool {text}: give kind:diameter:flutes, diameter in mm, as in flat:6.35:2") from None
    if not 0.1 < diameter <= 200 or not 1 <= flutes <= 12 or len(fields) > 3:
        raise BadInput(f"--tool {text}: a diameter above 0.1 and up to 200 mm and 1 to 12 flutes")
    extra = {"corner_radius": diameter / 8} if kind in ("bowl", "roundover", "point roundover") else {}
    try:
        # the edge is taken long enough for two diameters: the command knows no better
        return Cutter(
            id="tool",
            number=1,
            name=f"{diameter:g} mm {kind}",
            kind=kind,
            diameter=diameter,
            flutes=flutes,
            cutting_length=max(4 * diameter, 1.0),
            shank=diameter,
            tip=1.0 if kind == "tapered ball" else 0.0,
            **extra,
        )  # type: ignore[arg-type]
    except ValidationError as e:
        raise BadInput(f"--tool {text}: {plain_error(e)}") from e


def _store(data: Path | None) -> Any:
    from venzo.store.store import Store

    folder = _folder(data)
    if not (folder / "venzo.db").exists():
        raise BadInput(f"{folder}: no shop data there; start with 'venzo demo' or 'venzo serve --data {folder}', or name the folder with --data")
    return Store(folder)


@app.command()
def plan(job: str, data: Data = None, as_json: Json = False) -> None:
    """A stored job's derivations: layout, cuts, snags, yield."""
    from venzo import shop
    from venzo.hold import timeline_view

    store = _store(data)
    revision = _job(store, job)
    document: dict[str, Any] = {"job": revision.plan.id, "name": revision.plan.name, "revision": revision.number, "setups": []}
    lines = [f"{revision.plan.name}, revision {revision.number}"]
    stops = 0
    for d in shop.derive(store, revision.plan).values():
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
                        "hold": timeline_view(s, h),
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
        lines.append(f"  {d.setup.name}: layout {d.layout.state}, {y.pieces} pieces on {len(y.sheets)} sheets, {y.utilisation:.1%} used, {y.seconds / 60:.1f} min")
        lines += ["  " + line for line in _snag_lines(snags)]
    _say(document, as_json, lines)
    raise typer.Exit(1 if stops else 0)


def _job(store: Any, job: str) -> Any:
    from venzo.store.store import NotFound

    try:
        return store.get(job)
    except NotFound as e:
        known = ", ".join(j["id"] for j in store.jobs()) or "none"
        raise BadInput(f"there is no job {job!r}; the jobs are: {known}") from e


@app.command()
def release(job: str, output: Annotated[Path, typer.Option("-o", help="folder for programs and papers")], data: Data = None, as_json: Json = False) -> None:
    """Write a stored job's programs and papers into a folder."""
    from venzo import shop

    store = _store(data)
    revision = _job(store, job)
    files, manifest = shop.release(store, revision.plan, revision.number)
    output.mkdir(parents=True, exist_ok=True)
    for name, body in files:
        (output / name).write_bytes(body)
    lines = [f"{len(files)} files in {output}"] + [f"  {n}" for n, _b in files]
    for s in manifest["setups"]:
        lines += [f"  leaves out: {w}" for w in s["leaves_out"]] + [f"  stop: {w}" for w in s["stops"]]
    _say(manifest, as_json, lines)
    raise typer.Exit(1 if any(s["stops"] for s in manifest["setups"]) else 0)


@app.command()
def serve(host: str = "127.0.0.1", port: int = 8321, data: Data = None) -> None:
    """Start Venzo on this machine without demo data."""
    _serve(host, port, _folder(data), False)


@app.command()
def demo(host: str = "127.0.0.1", port: int = 8321, data: Data = None) -> None:
    """Start Venzo with the demo shop, Marram Works."""
    _serve(host, port, _folder(data, "demo"), True)


@app.command()
def warm() -> None:
    """Compile the hot kernels into their cache, so that the first nest starts at once (run at install)."""
    from venzo.work.warm import warm_kernels

    warm_kernels()


def _serve(host: str, port: int, folder: Path, with_demo: bool) -> None:
    if host not in ("127.0.0.1", "localhost", "::1"):
        raise BadInput(f"--host {host}: another host is served only with accounts set up, which this version does not have; use 127.0.0.1")
    if not 1 <= port <= 65535:
        raise BadInput(f"--port {port}: use a port from 1 to 65535")
    import socket

    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host if host != "localhost" else "127.0.0.1", port))
        except OSError as e:
            raise BadInput(f"port {port} is taken by another program; choose one with --port") from e
    import uvicorn

    from venzo.api.app import make_app
    from venzo.store.folder import UNUSED, hold_folder
    from venzo.store.store import Store

    store = Store(folder)
    held = hold_folder(folder)
    if with_demo:
        from venzo.demo.seed import seed

        if not store.jobs():
            print("Setting up the demo shop ...", file=sys.stderr)
        seed(store)
    elif not store.library("machine"):
        print("A new shop: the first page asks for your machine and what you cut.", file=sys.stderr)
    threading.Thread(target=lambda: store.collect(UNUSED), daemon=True).start()
    print(f"Venzo is at http://{host}:{port}  (data in {folder}; stop with Ctrl-C)", file=sys.stderr)
    uvicorn.run(make_app(store, f"{host}:{port}"), host=host, port=port, log_level="warning")
    held.close()


def main() -> None:
    """Entry point: bad input is one clear line and exit code 2, never a stack trace."""
    try:
        code = app(standalone_mode=False)
        raise SystemExit(code if isinstance(code, int) else 0)
    except BadInput as e:
        print(" ".join(str(e).split()), file=sys.stderr)
        raise SystemExit(2) from None
    except typer.Exit as e:
        raise SystemExit(e.exit_code) from None
    except typer.Abort:
        raise SystemExit(2) from None
    except KeyboardInterrupt:
        raise SystemExit(130) from None
    except Exception as e:
        if hasattr(e, "format_message"):  # usage faults of the command line itself
            print(e.format_message(), file=sys.stderr)
            raise SystemExit(2) from None
        print(f"unexpected: {type(e).__name__}: {e}; please report it with the input", file=sys.stderr)
        raise SystemExit(2) from None


if __name__ == "__main__":
    main()
