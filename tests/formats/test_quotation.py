"""A quotation reckoned by hand, on paper and as a table; refused where no honest sum can be said."""

import csv
import io

import pypdf
import pytest

from tests.support.trial import TrialJob, rect
from venzo.core.edits import SetQuantity, SetSetup
from venzo.core.snags import BadInput
from venzo.core.yields.costing import CostRules
from venzo.desk.yield_papers import quotation, quotation_paper, quotation_table
from venzo.desk.yields import job_use
from venzo.formats.quotation import Quotation, QuotedLine, quotation_csv, quotation_pdf, quoted_lines

PARTS = [("shelf", "Birch plywood", 4, 12.345), ("rail", "Birch plywood", 3, 0.1)]


def text(pdf):
    return "\n".join(p.extract_text() for p in pypdf.PdfReader(io.BytesIO(pdf)).pages)


def test_lines_are_rounded_once_and_add_up():
    """By hand: 12.345 and 20 % is 14.814, said 14.81; four of them 59.24; three rails of 0.12 are 0.36."""
    lines = quoted_lines(PARTS, 0.2, ())
    assert [(x.each, x.sum) for x in lines] == [(14.81, 59.24), (0.12, 0.36)]
    q = Quotation("j-7", "Shelves", ("North Quay",), "2026-11-29", lines, "EUR")
    assert q.total == 59.60
    rows = list(csv.reader(io.StringIO(quotation_csv(q).decode())))
    assert rows[0] == ["part", "material", "pieces", "each", "sum", "currency"]
    assert rows[1:] == [
        ["shelf", "Birch plywood", "4", "14.81", "59.24", "EUR"],
        ["rail", "Birch plywood", "3", "0.12", "0.36", "EUR"],
        ["total", "", "7", "", "59.60", "EUR"],
    ]
    said = text(quotation_pdf(q))
    for words in ("Quotation", "j-7", "North Quay", "shelf", "14.81", "59.24", "59.60"):
        assert words in said


def test_many_lines_go_on_on_a_next_page_and_none_is_lost():
    lines = tuple(
        QuotedLine(f"part {k} " + "long name " * (k % 9), "Acrylic sheet", k, 1.0) for k in range(1, 90)
    )
    said = text(quotation_pdf(Quotation("j-1", "Many", (), "", lines, "")))
    assert all(f"part {k} " in said for k in range(1, 90)) and "4,005.00" in said
    assert len(pypdf.PdfReader(io.BytesIO(quotation_pdf(Quotation("j", "M", (), "", lines, "")))).pages) > 1


@pytest.fixture
def trial(store):
    return TrialJob(store, (rect(200, 100), [(20, 20), (20, 150)]), screwed=False)


def priced(trial, **fields):
    rules = trial.setup.rules.model_copy(update={"costs": CostRules(labour_per_hour=50, **fields)})
    cutters = tuple(c.model_copy(update={"price": 30.0, "life": 1000.0}) for c in trial.setup.cutters)
    machine = trial.setup.machine.model_copy(update={"rate_per_hour": 40.0})
    trial.do(SetSetup(setup="main", rules=rules, cutters=cutters, machine=machine))


def test_what_has_no_price_is_named_and_nothing_is_quoted(trial):
    trial.do(SetSetup(setup="main", material=trial.setup.material.model_copy(update={"price_m2": 0.0})))
    with pytest.raises(BadInput, match="no price for Birch plywood; give it in the library"):
        quotation(trial.store, trial.store.get(trial.job))


def test_pieces_without_a_place_are_not_quoted(trial):
    priced(trial)
    trial.do(SetQuantity(part=trial.part(), order="order-1", quantity=5))
    with pytest.raises(BadInput, match="3 pieces of bench without a place; nest again"):
        quotation(trial.store, trial.store.get(trial.job))


def test_a_job_is_quoted_at_its_costs_and_what_is_added(trial):
    priced(trial, added_share=0.5)
    revision = trial.store.get(trial.job)
    q = quotation(trial.store, revision)
    total = job_use(trial.store, revision.plan).cost["total"]
    assert q.lines[0].pieces == 2 and q.total == pytest.approx(1.5 * total, abs=0.011)
    assert q.number == f"{trial.job}-{revision.number}"
    assert f"{q.total:.2f}" in text(quotation_paper(trial.store, revision))
    assert quotation_table(trial.store, revision) == quotation_csv(q)
