"""The reckonings on the command line."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

from venzo.cli.shared import Json, app, option, say
from venzo.core.snags import BadInput

if TYPE_CHECKING:
    from venzo.core.reckonings.reckoning import Reckoning


@app.command(context_settings={"allow_extra_args": True, "ignore_unknown_options": True})
def reckon(
    context: typer.Context,
    name: Annotated[str | None, typer.Argument(help="of the reckoning; none: all are listed")] = None,
    inch: Annotated[bool, option("bare numbers are in inches, in/min, ft/min, lbf, ...")] = False,
    as_json: Json = False,
) -> None:
    """Small sums of the trade, any way round: give the fields that are known as --FIELD VALUE."""
    from venzo.core.reckonings import RECKONINGS, find
    from venzo.core.reckonings.quantities import core_unit
    from venzo.core.reckonings.reckoning import shown, work_out_all

    if name is None:
        listed = [
            {
                "name": r.name,
                "title": r.title,
                "asks": r.asks,
                "fields": [
                    {"name": f.name, "label": f.label, "unit": core_unit(f.kind), "words": list(f.words)}
                    for f in r.fields
                ],
            }
            for r in RECKONINGS
        ]
        say(listed, as_json, [f"{r.name:18s} {r.asks}" for r in RECKONINGS])
        return
    r = find(name)
    given = _given(context.args, r, inch)
    out = work_out_all(r, given)
    document = {
        "name": r.name,
        "given": {k: out.values[k] for k in given},
        "result": {k: v for k, v in out.values.items() if k not in given},
        "formula": r.formula,
        "source": r.source,
    }
    words = shown(r, out.values, "in" if inch else "mm")
    lines = [f"{r.field(k).label}: {words[k]}{' (given)' if k in given else ''}" for k in out.values]
    say(document, as_json, [r.title, *lines, *r.says(out.values, words.__getitem__), r.formula, r.source])


def _given(args: list[str], r: Reckoning, inch: bool) -> dict[str, float | str]:
    """The fields named on the command line; ``--chip-load 0.1`` and ``--chip_load=0.1`` are one."""
    from venzo.core.reckonings.quantities import read

    out: dict[str, float | str] = {}
    rest = [part for a in args for part in (a.split("=", 1) if a.startswith("--") and "=" in a else [a])]
    for option_name, text in zip(rest[::2], [*rest[1::2], None], strict=False):
        if not option_name.startswith("--") or text is None:
            raise BadInput(f"reckon {r.name}: give each field as --FIELD VALUE; {option_name!r} stands alone")
        f = r.field(option_name[2:].replace("-", "_"))
        if f.kind == "choice":
            out[f.name] = text
            continue
        try:
            # a bare number is in the unit that the list names
            out[f.name] = read(text, f.kind, "in") if inch else float(text)
        except ValueError:
            try:
                out[f.name] = read(text, f.kind, "in" if inch else "mm")
            except BadInput as e:
                raise BadInput(f"--{f.name} {text}: {e}") from None
    return out
