from collections.abc import Iterable

from tinycss2.ast import ComponentValue

def parse_nth(input: str | Iterable[ComponentValue]) -> tuple[int, int] | None: ...
