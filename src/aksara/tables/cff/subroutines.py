"""Which subroutines of a CFF font are worth their bytes, and charstrings written with calls to just these."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from aksara.tables.cff.charstrings import CALL_GLOBAL, CALL_LOCAL, Body, Runner, bias
from aksara.tables.cff.dicts import write_dict, write_integer
from aksara.tables.cff.font_dicts import FontDict
from aksara.tables.cff.index import index_overhead
from aksara.tables.cff.operators import HINTS


class ChosenSubroutines(Struct):
    """Charstrings, with those subroutines that make them smaller: of each font dictionary, and shared by all."""

    charstrings: list[bytes]
    local: list[list[bytes]]
    shared: list[bytes]


def choose_subroutines(runner: Runner, glyphs: Iterable[int]) -> ChosenSubroutines | None:
    """The glyphs that `runner` has run, written with the subroutines that are worth it.

    None where no glyph calls any, or where bodies are ambiguous: then only charstrings without calls are certain to be
    right.
    """
    bodies = [Body("glyph", 0, glyph) for glyph in glyphs]
    uses = _count_uses(runner, bodies)
    if not uses or runner.ambiguous or _mixes_dictionaries(runner, uses):
        return None
    kept = {body for body, count in uses.items() if _is_worth_it(len(runner.data(body)), count)}
    numbers: dict[Body, int] = {}
    groups: dict[tuple[str, int], list[Body]] = defaultdict(list)
    for body in sorted(kept, key=lambda body: (body.owner, body.font_dict, -uses[body], body.number)):
        groups[body.owner, body.font_dict].append(body)
    for group in groups.values():
        for dict_index, body in enumerate(_near_first(group)):
            numbers[body] = dict_index - bias(len(group))
    writer = _Writer(runner, numbers)
    ordered = {key: sorted(group, key=numbers.__getitem__) for key, group in groups.items()}
    return ChosenSubroutines(
        [writer.text(body) for body in bodies],
        [[writer.subroutine(b) for b in ordered.get(("local", fd), ())] for fd in range(len(runner.local))],
        [writer.subroutine(b) for b in ordered.get(("global", 0), ())],
    )


def with_subroutines(
    runner: Runner, order: Sequence[int | None], font_dicts: Mapping[int, FontDict]
) -> tuple[list[bytes], list[FontDict], list[bytes]] | None:
    """Charstrings of the kept glyphs, font dictionaries and global subroutines, with calls to what is worth it.

    `order` has the old ID of each glyph, None for an empty one; `font_dicts` are the kept ones by their old index. None
    as in `choose_subroutines`.
    """
    chosen = choose_subroutines(runner, [old for old in order if old is not None])
    if chosen is None:
        return None
    charstrings = iter(chosen.charstrings)
    written = [runner.EMPTY_GLYPH if old is None else next(charstrings) for old in order]
    dicts = [replace(font_dict, subroutines=chosen.local[dict_index]) for dict_index, font_dict in font_dicts.items()]
    return written, dicts, chosen.shared


#: Glyphs that are sampled to estimate the size of hints.
HINT_SAMPLE = 1_000


def hint_size(runner: Runner, font_dict_of: Sequence[int], font_dicts: Sequence[FontDict]) -> int:
    """Bytes that hints take: stems and masks of the glyphs, and what the font dictionaries say of them. Of a font with
    many glyphs it is an estimate from glyphs at even steps.

    `runner` is one that has run nothing yet.
    """
    step = -(-len(font_dict_of) // HINT_SAMPLE)
    sampled = range(0, len(font_dict_of), max(step, 1))
    for glyph in sampled:
        runner.run(glyph, font_dict_of[glyph])
    private = (font_dict.private for font_dict in font_dicts)
    return runner.hint_bytes * len(font_dict_of) // max(len(sampled), 1) + sum(
        len(write_dict({op: v for op, v in values.items() if op in HINTS})) for values in private
    )


def _count_uses(runner: Runner, bodies: Sequence[Body]) -> Counter[Body]:
    """How often each subroutine is called in these charstrings, and in the subroutines that they call."""
    uses: Counter[Body] = Counter()
    pending, seen = list(bodies), set(bodies)
    while pending:
        for call in runner.calls.get(pending.pop(), ()):
            uses[call.target] += 1
            if call.target not in seen:
                seen.add(call.target)
                pending.append(call.target)
    return uses


def _near_first(group: Sequence[Body]) -> list[Body]:
    """The most used where their numbers take one byte in a call: around the bias."""
    middle = bias(len(group))
    order = sorted(range(len(group)), key=lambda index: abs(index - middle))
    numbered: list[Body | None] = [None] * len(group)
    for index, body in zip(order, group, strict=True):
        numbered[index] = body
    return [body for body in numbered if body is not None]


def _mixes_dictionaries(runner: Runner, called: Iterable[Body]) -> bool:
    """Whether one of the called subroutines that are shared calls local ones, which are others for each font
    dictionary."""
    if len(runner.local) < 2:
        return False
    shared = (body for body in called if body.owner == "global")
    return any(call.target.owner == "local" for body in shared for call in runner.calls.get(body, ()))


def _is_worth_it(size: int, uses: int) -> bool:
    """Whether a subroutine of `size` bytes (its return included) saves more than its calls and its entry cost."""
    call, entry = 3, index_overhead(2, 2000) - index_overhead(1, 2000)
    return uses * (size - 1 - call) > size + entry


class _Writer:
    """Writes bodies with calls to the numbered subroutines, and all others in place of their calls."""

    def __init__(self, runner: Runner, numbers: dict[Body, int]) -> None:
        self.runner = runner
        self.numbers = numbers
        self._texts: dict[Body, bytes] = {}

    def text(self, body: Body) -> bytes:
        if body not in self.runner.calls:
            return self.runner.data(body)
        if body not in self._texts:
            data = self.runner.data(body)
            out, offset = bytearray(), 0
            for call in self.runner.calls[body]:
                out += data[offset : call.start]
                if call.target in self.numbers:
                    operator = CALL_GLOBAL if call.target.owner == "global" else CALL_LOCAL
                    out += write_integer(self.numbers[call.target]) + bytes((operator,))
                else:
                    out += self.text(call.target)
                offset = call.end
            self._texts[body] = bytes(out + data[offset : self.runner.ends[body]])
        return self._texts[body]

    def subroutine(self, body: Body) -> bytes:
        """Its text, closed."""
        return self.text(body) + self.runner.CLOSING
