"""Papers on what a job takes and costs: the yield report, and a quotation."""

from __future__ import annotations

from venzo.core.snags import BadInput
from venzo.core.voice import counted
from venzo.core.yields.material_use import together
from venzo.desk import jobs
from venzo.desk.yields import JobUse, job_use, paid_for, sheet_amounts, sheets_of
from venzo.formats.quotation import Quotation, QuotedLine, quotation_csv, quotation_pdf, quoted_lines
from venzo.formats.yield_report import ReportedSheet, YieldReport, yield_report
from venzo.store.store import Revision, Store


def report(store: Store, revision: Revision, unit: str) -> bytes:
    """The yield report of a job as a PDF."""
    plan = revision.plan
    sheets, every = [], []
    for d in paid_for(jobs.derive(store, plan, False)):
        for n, (s, y) in enumerate(zip(sheets_of(d), d.yields_of_both.sheets, strict=True), 1):
            found, a = sheet_amounts(store, plan, d, s, y)
            stock = d.setup.stock_of(s.sheet)
            sheets.append(
                ReportedSheet(f"{d.setup.name}, sheet {n}: {stock.name if stock else s.sheet}", found, a)
            )
            every.append(a)
    use = job_use(store, plan)
    costs = tuple(
        (of, "no price yet" if (v := use.cost[of]) is None else f"{v:,.2f} {use.currency}".strip(), says)
        for of, says in _says(use)
    )
    stamp = f"revision {revision.number}"
    code = f"VENZO JOB {plan.id} REVISION {revision.number}"
    return yield_report(YieldReport(plan.name, stamp, code, tuple(sheets), together(every), costs, unit))


def _says(use: JobUse) -> list[tuple[str, str]]:
    """How each kind of cost comes about, over the setups."""
    out: dict[str, list[str]] = {}
    for s in use.setups:
        for line in s.cost.lines:
            out.setdefault(line.of, []).append(line.says)
    return [(of, "; ".join(dict.fromkeys(said))) for of, said in out.items()]


def quotation(store: Store, revision: Revision) -> Quotation:
    """What is quoted for a job: its parts at what they cost with what the shop adds.

    Raises:
        BadInput: nothing is nested, pieces have no place, or something has no price.
    """
    plan = revision.plan
    left_out = sum(n for d in jobs.derive(store, plan, False).values() for n in d.layout.unplaced.values())
    if left_out:
        raise BadInput(
            f"there is no quotation yet: {counted(left_out, 'piece')} of {plan.name} without a place; nest"
            " again"
        )
    use = job_use(store, plan)
    lines: list[QuotedLine] = []
    for s in use.setups:
        setup = plan.setup(s.setup)
        assert setup is not None
        each = [(p.name, s.material, p.pieces, p.each) for p in s.cost.parts]
        lines += quoted_lines(each, setup.rules.costs.added_share, s.cost.lacks)
    if not lines:
        raise BadInput(f"there is no quotation yet: nothing of {plan.name} is nested; nest first")
    made = next(iter(store.history(plan.id, 1, revision.number + 1)), None)
    return Quotation(
        number=f"{plan.id}-{revision.number}",
        job=plan.name,
        orders=tuple(o.name for o in plan.orders),
        made=f"plan of {str(made['made'])[:10]}" if made else "",
        lines=tuple(lines),
        currency=use.currency,
        says=(
            "Prices are each part's share of material net of what is kept, machine, cutters, set-up and"
            " work by hand.",
        ),
    )


def quotation_paper(store: Store, revision: Revision) -> bytes:
    """The quotation as a PDF."""
    return quotation_pdf(quotation(store, revision))


def quotation_table(store: Store, revision: Revision) -> bytes:
    """The quotation as CSV."""
    return quotation_csv(quotation(store, revision))
