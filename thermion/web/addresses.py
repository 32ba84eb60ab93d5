"""Rules of addresses: the numbers in them can be a row's, and they are made ready when first needed."""

from __future__ import annotations

from collections.abc import Callable

from flask import Flask
from werkzeug.routing import IntegerConverter, Rule, ValidationError

from thermion.web.payloads import MOST_ID

Builder = Callable[..., tuple[str, str]]


class RowConverter(IntegerConverter):
    """`<int:…>` in an address: a number beyond what a row can have leads nowhere (404)."""

    def to_python(self, value: str) -> int:
        found: int = super().to_python(value)
        if found > MOST_ID:
            raise ValidationError
        return found


class LateRule(Rule):
    """A rule whose functions for `url_for` are compiled when first asked for.

    Werkzeug compiles two for each rule at once; for all of ours that is four fifths of what making
    the application takes, and a session uses a third of them.
    """

    def _compile_builder(self, append_unknown: bool = True) -> Builder:
        made: list[Builder] = []

        def build(rule: LateRule, /, **values: object) -> tuple[str, str]:
            if not made:
                made.append(super(LateRule, rule)._compile_builder(append_unknown).__get__(rule, None))
            return made[0](**values)

        return build


def init(app: Flask) -> None:
    """Before the first address is added."""
    app.url_rule_class = LateRule
    app.url_map.converters["int"] = RowConverter
