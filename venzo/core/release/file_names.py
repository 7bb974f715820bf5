"""What programs are called: a house pattern, filled in."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import Annotated

from pydantic import AfterValidator, Field

WORDS = {
    "job": "the job's name",
    "setup": "the setup's name, where the job has several",
    "sheet": "number of the sheet, with how often its layout is cut",
    "side": "which face of the stock is up",
    "order": "number of the file in running order",
    "what": "what tells it from its neighbours: trial, insides, an operation, another Z zero",
    "cutter": "the cutters it loads, by number",
    "size": "size of the stock, in whole units of the program",
    "stock": "the stock's name",
    "material": "the material's name",
}
"""Words of a pattern, each in braces, and what stands in their place."""
USUAL = "{job}_{setup}_s{sheet}_{order}_{what}_{cutter}"
"""Job, sheet, order, cutter: names sort in running order."""
LONGEST_NAME = 120


def slug(text: str) -> str:
    """Letters, digits and dashes only, for file names.

    >>> slug("Hide, wall ribs & bench ends")
    'hide-wall-ribs-bench-ends'
    """
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:40].strip("-") or "job"


def _pattern(text: str) -> str:
    clean = text.strip()
    for word in re.findall(r"\{([^{}]*)\}", clean):
        if word not in WORDS:
            known = ", ".join("{" + w + "}" for w in WORDS)
            raise ValueError(f"{{{word}}} is no word of a file name; there are {known}")
    rest = re.sub(r"\{[a-z]+\}", "", clean)
    wrong = re.sub(r"[A-Za-z0-9._-]", "", rest)
    if wrong:
        raise ValueError(
            f"{wrong[0]!r} may not stand in a file name: letters, digits, dots, dashes and underscores do"
        )
    if not {"{order}", "{sheet}"} & set(re.findall(r"\{[a-z]+\}", clean)):
        raise ValueError("a name needs {sheet} or {order}, or the files of a job are all called the same")
    return clean


Pattern = Annotated[str, Field(min_length=1, max_length=LONGEST_NAME), AfterValidator(_pattern)]


def filled(pattern: str, words: Mapping[str, str]) -> str:
    """A pattern with its words filled in; what is empty takes its dash or underscore with it.

    >>> filled("{job}_{what}_{order}", {"job": "stool", "what": "", "order": "01"})
    'stool_01'
    """
    text = re.sub(r"\{([a-z]+)\}", lambda m: words.get(m[1], ""), pattern)
    return re.sub(r"([_.-])[_.-]+", r"\1", text).strip("_.-") or "program"


def told_apart(names: Iterable[str]) -> list[str]:
    """Names in order, each its own: what comes twice gets a number.

    >>> told_apart(["a", "b", "a"])
    ['a', 'b', 'a-2']
    """
    out: list[str] = []
    for name in names:
        n, own = 1, name
        while own in out:
            n += 1
            own = f"{name}-{n}"
        out.append(own)
    return out
