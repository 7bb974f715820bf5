"""One word, one thing: no text of the screen or of the core uses a word that docs/words.md rules out."""

import ast
import re
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
TEXT = re.compile(r""">([^<>{}]{3,})<|"((?:[^"\\\n]|\\.){3,})"|`((?:[^`\\]|\\.){3,})`""")


def ruled_out():
    """(word, what is said instead) of every word that is never used."""
    rows = re.findall(r"^\| (.+?) \| .+? \| (.*?) ?\|$", (ROOT / "docs/words.md").read_text(), re.M)
    return [(never.strip(), word) for word, cell in rows[2:] for never in cell.split(",") if never.strip()]


def screen_texts():
    """Texts of the screen: what stands between tags, and strings; comments and class names are none."""
    for path in sorted((ROOT / "web/src").rglob("*.ts*")):
        if path.name == "schema.ts" or ".test." in path.name:
            continue
        code = re.sub(
            r"/\*.*?\*/|(?<!:)//[^\n]*|className=(\{`[^`]*`\}|\"[^\"]*\")", "", path.read_text(), flags=re.S
        )
        for found in TEXT.finditer(code):
            yield path.name, next(g for g in found.groups() if g)


@cache
def sources():
    """Every file of the core and what stands on it, parsed."""
    return [(path.name, ast.parse(path.read_text())) for path in sorted((ROOT / "venzo").rglob("*.py"))]


def core_texts():
    """String constants of the core and what stands on it, without docstrings."""
    for file, tree in sources():
        told = {
            id(n.body[0].value)
            for n in ast.walk(tree)
            if isinstance(n, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef)
            and n.body
            and isinstance(n.body[0], ast.Expr)
        }
        told |= {id(n.value) for n in ast.walk(tree) if isinstance(n, ast.Expr)}
        for n in ast.walk(tree):
            if isinstance(n, ast.Constant) and isinstance(n.value, str) and id(n) not in told:
                yield file, n.value


@pytest.mark.parametrize("texts", [screen_texts, core_texts])
def test_no_text_uses_a_word_that_is_ruled_out(texts):
    never = [(re.compile(rf"\b{re.escape(word)}\b", re.I), word, said) for word, said in ruled_out()]
    assert len(never) > 15
    any_of_them = re.compile("|".join(pattern.pattern for pattern, _word, _said in never), re.I)
    found = [
        (name, word, f"say {said!r}", text[:80])
        for name, text in texts()
        if any_of_them.search(text)
        for pattern, word, said in never
        if pattern.search(text)
    ]
    assert found == []


COUNTED = re.compile(
    r"^ (pieces|sheets|cuts|tabs|screws|holes|parts|files|steps|changes|stops|jobs|passes|rows|boards|cutters"
    r"|contours|readings|lines|pages|notes)\b"
)
NEVER_ONE = {
    "times": "said from two on",
    "len(rows)": "said from two on",
    "n": "said from two on, or over a limit",
    "len(lv.depths)": "over a limit",
    "total": "over a limit",
    "quantity": "over a limit",
    "len(rows) - 1": "over a limit",
    "self.holes": "one hole runs into no other",
    "len(found)": "what falls apart is two at least",
}
"""Numbers that are two at least."""
VERB = re.compile(r"name|what|tool|cut\(|uses\[")
"""Names, before a verb that looks like a plural: a cutter cuts."""


def counts_in_words():
    """(file, value, words) where a number stands before a plural that is always one."""
    for file, tree in sources():
        for n in ast.walk(tree):
            if not isinstance(n, ast.JoinedStr):
                continue
            for value, text in zip(n.values, n.values[1:], strict=False):
                if (
                    isinstance(value, ast.FormattedValue)
                    and isinstance(text, ast.Constant)
                    and COUNTED.match(text.value)
                ):
                    yield file, ast.unparse(value.value), text.value


def test_a_count_agrees_with_what_it_counts():
    """One piece was said to be "1 pieces" on screens and papers: a count is said by ``counted``, or both ways
    by hand. Limits (capital letters) are never one.
    """
    bad = [
        (name, value, text)
        for name, value, text in counts_in_words()
        if not re.search(r"\b[A-Z_]{3,}\b", value)
        and value not in NEVER_ONE
        and not (text.startswith((" cuts", " passes less")) and VERB.search(value))
    ]
    assert bad == []
