"""Counter styles: how list items and counters are numbered (CSS Counter Styles 3)."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from aksara.limits import MAX_COUNTER_FALLBACKS, MAX_COUNTER_LENGTH
from aksara.site.css.values import meaningful, quantity, tokens_of, whole


class CounterStyle(Struct, frozen=True):
    """A way to write numbers (section 2). `weights` go with the symbols of the additive system."""

    system: str = "symbolic"
    symbols: tuple[str, ...] = ()
    weights: tuple[int, ...] = ()
    suffix: str = ". "
    prefix: str = ""
    negative: str = "-"
    first: int = 1
    low: int | None = None
    high: int | None = None
    pad: tuple[int, str] = (0, "")
    fallback: str = "decimal"
    extends: str = ""


def _numeric(zero: int, suffix: str = ". ") -> CounterStyle:
    return CounterStyle("numeric", tuple(chr(zero + digit) for digit in range(10)), suffix=suffix)


def _alphabetic(symbols: str, suffix: str = ". ") -> CounterStyle:
    return CounterStyle("alphabetic", tuple(symbols), suffix=suffix, low=1)


def _additive(low: int, high: int, text: str, suffix: str = ". ") -> CounterStyle:
    pairs = [pair.split(":") for pair in text.split()]
    symbols = tuple(symbol for _, symbol in pairs)
    return CounterStyle("additive", symbols, tuple(int(w) for w, _ in pairs), suffix=suffix, low=low, high=high)


_ROMAN = "1000:m 900:cm 500:d 400:cd 100:c 90:xc 50:l 40:xl 10:x 9:ix 5:v 4:iv 1:i"
_ARMENIAN = (
    "9000:Ք 8000:Փ 7000:Ւ 6000:Ց 5000:Ր 4000:Տ 3000:Վ 2000:Ս 1000:Ռ 900:Ջ 800:Պ 700:Չ 600:Ո 500:Շ 400:Ն 300:Յ 200:Մ "
    "100:Ճ 90:Ղ 80:Ձ 70:Հ 60:Կ 50:Ծ 40:Խ 30:Լ 20:Ի 10:Ժ 9:Թ 8:Ը 7:Է 6:Զ 5:Ե 4:Դ 3:Գ 2:Բ 1:Ա"
)
_GEORGIAN = (
    "10000:ჵ 9000:ჰ 8000:ჯ 7000:ჴ 6000:ხ 5000:ჭ 4000:წ 3000:ძ 2000:ც 1000:ჩ 900:შ 800:ყ 700:ღ 600:ქ 500:ფ 400:ჳ 300:ტ "
    "200:ს 100:რ 90:ჟ 80:პ 70:ო 60:ჲ 50:ნ 40:მ 30:ლ 20:კ 10:ი 9:თ 8:ჱ 7:ზ 6:ვ 5:ე 4:დ 3:გ 2:ბ 1:ა"
)
_HEBREW = (
    "10000:י׳ 9000:ט׳ 8000:ח׳ 7000:ז׳ 6000:ו׳ 5000:ה׳ 4000:ד׳ 3000:ג׳ 2000:ב׳ 1000:א׳ 400:ת 300:ש 200:ר 100:ק 90:צ "
    "80:פ 70:ע 60:ס 50:נ 40:מ 30:ל 20:כ 19:יט 18:יח 17:יז 16:טז 15:טו 10:י 9:ט 8:ח 7:ז 6:ו 5:ה 4:ד 3:ג 2:ב 1:א"
)


def _cjk(thousand: str, hundred: str, ten: str, digits: str, zero: str, suffix: str, one: bool) -> CounterStyle:
    """Numbers with units, as 二百三; `one`: a unit alone has a one in front of it."""
    pairs = []
    for value, unit in ((1000, thousand), (100, hundred), (10, ten)):
        pairs += [f"{digit * value}:{digits[digit - 1]}{unit}" for digit in range(9, 1, -1)]
        pairs.append(f"{value}:{digits[0] if one else ''}{unit}")
    pairs += [f"{digit}:{digits[digit - 1]}" for digit in range(9, 0, -1)]
    return _additive(-9999, 9999, " ".join([*pairs, f"0:{zero}"]), suffix)


_INFORMAL, _FORMAL = "一二三四五六七八九", "壹貳叁肆伍陸柒捌玖"
_HIRAGANA = "あいうえおかきくけこさしすせそたちつてとなにぬねのはひふへほまみむめもやゆよらりるれろわゐゑをん"
_IROHA = "いろはにほへとちりぬるをわかよたれそつねならむうゐのおくやまけふこえてあさきゆめみしゑひもせす"


def _katakana(hiragana: str) -> str:
    return "".join(chr(ord(character) + 0x60) for character in hiragana)


#: Drawn by the browser without a font.
SHAPES = frozenset(("none", "disc", "circle", "square", "disclosure-open", "disclosure-closed"))

#: The styles that all browsers know, by name (sections 6 and 7).
PREDEFINED: dict[str, CounterStyle] = {
    "decimal": _numeric(0x30),
    "decimal-leading-zero": CounterStyle("numeric", tuple("0123456789"), pad=(2, "0")),
    "lower-roman": _additive(1, 3999, _ROMAN),
    "upper-roman": _additive(1, 3999, _ROMAN.upper()),
    "lower-alpha": _alphabetic("abcdefghijklmnopqrstuvwxyz"),
    "upper-alpha": _alphabetic("ABCDEFGHIJKLMNOPQRSTUVWXYZ"),
    "lower-greek": _alphabetic("αβγδεζηθικλμνξοπρστυφχψω"),
    "armenian": _additive(1, 9999, _ARMENIAN),
    "lower-armenian": _additive(1, 9999, _ARMENIAN.lower()),
    "georgian": _additive(1, 19999, _GEORGIAN),
    "hebrew": _additive(1, 10999, _HEBREW),
    "hiragana": _alphabetic(_HIRAGANA, "、"),
    "hiragana-iroha": _alphabetic(_IROHA, "、"),
    "katakana": _alphabetic(_katakana(_HIRAGANA), "、"),
    "katakana-iroha": _alphabetic(_katakana(_IROHA), "、"),
    "cjk-decimal": CounterStyle("numeric", tuple("〇一二三四五六七八九"), suffix="、"),
    "cjk-earthly-branch": CounterStyle("fixed", tuple("子丑寅卯辰巳午未申酉戌亥"), suffix="、", fallback="cjk-decimal"),
    "cjk-heavenly-stem": CounterStyle("fixed", tuple("甲乙丙丁戊己庚辛壬癸"), suffix="、", fallback="cjk-decimal"),
    "japanese-informal": _cjk("千", "百", "十", _INFORMAL, "〇", "、", False),
    "japanese-formal": _cjk("阡", "百", "拾", "壱弐参四伍六七八九", "零", "、", True),
    "korean-hangul-formal": _cjk("천", "백", "십", "일이삼사오육칠팔구", "영", ", ", True),
    "korean-hanja-informal": _cjk("千", "百", "十", _INFORMAL, "零", ", ", False),
    "korean-hanja-formal": _cjk("仟", "百", "拾", "壹貳參四五六七八九", "零", ", ", True),
    "simp-chinese-informal": _cjk("千", "百", "十", _INFORMAL, "零", "、", False),
    "simp-chinese-formal": _cjk("仟", "佰", "拾", "壹贰叁肆伍陆柒捌玖", "零", "、", True),
    "trad-chinese-informal": _cjk("千", "百", "十", _INFORMAL, "零", "、", False),
    "trad-chinese-formal": _cjk("仟", "佰", "拾", _FORMAL, "零", "、", True),
    "arabic-indic": _numeric(0x660),
    "bengali": _numeric(0x9E6),
    "khmer": _numeric(0x17E0),
    "devanagari": _numeric(0x966),
    "gujarati": _numeric(0xAE6),
    "gurmukhi": _numeric(0xA66),
    "kannada": _numeric(0xCE6),
    "lao": _numeric(0xED0),
    "malayalam": _numeric(0xD66),
    "mongolian": _numeric(0x1810),
    "myanmar": _numeric(0x1040),
    "oriya": _numeric(0xB66),
    "persian": _numeric(0x6F0),
    "tamil": _numeric(0xBE6),
    "telugu": _numeric(0xC66),
    "thai": _numeric(0xE50),
    "tibetan": _numeric(0xF20),
}
for _name, _same in (
    ("lower-latin", "lower-alpha"),
    ("upper-latin", "upper-alpha"),
    ("upper-armenian", "armenian"),
    ("cambodian", "khmer"),
    ("cjk-ideographic", "trad-chinese-informal"),
):
    PREDEFINED[_name] = PREDEFINED[_same]


def counter_style(said: Mapping[str, str]) -> CounterStyle:
    """The style that the descriptors of an `@counter-style` rule make (section 3)."""
    system = said.get("system", "symbolic").lower().split()
    name = system[0] if system else "symbolic"
    number = next((whole(float(part)) for part in system[1:] if part.lstrip("-").isdecimal()), 1)
    symbols, weights = _symbols(said, name == "additive")
    low, high = _range(said.get("range", "auto"))
    pad = meaningful(tokens_of(said.get("pad", "")))
    width = next((whole(token.value) for token in pad if token.type == "number"), 0)
    filler = next((token.value for token in pad if token.type in ("string", "ident")), "")
    return CounterStyle(
        name,
        symbols,
        weights,
        _text(said.get("suffix", '". "')),
        _text(said.get("prefix", '""')),
        _text(said.get("negative", '"-"')),
        number,
        low,
        high,
        (min(max(width, 0), MAX_COUNTER_LENGTH), filler),
        said.get("fallback", "decimal"),
        system[1] if name == "extends" and len(system) > 1 else "",
    )


def _text(value: str) -> str:
    return "".join(str(token.value) for token in tokens_of(value)[:1] if token.type in ("string", "ident"))


def _symbols(said: Mapping[str, str], additive: bool) -> tuple[tuple[str, ...], tuple[int, ...]]:
    tokens = meaningful(tokens_of(said.get("additive-symbols" if additive else "symbols", "")))
    words = tuple(str(token.value) for token in tokens if token.type in ("string", "ident"))
    numbers = tuple(whole(token.value) for token in tokens if token.type == "number")
    return (words[: len(numbers)], numbers[: len(words)]) if additive else (words, ())


def _range(text: str) -> tuple[int | None, int | None]:
    numbers = [quantity(token) for token in meaningful(tokens_of(text))]
    if len(numbers) != 2:
        return None, None
    low, high = (None if number is None else whole(number[0]) for number in numbers)
    return low, high


def resolve_style(name: str, known: Mapping[str, CounterStyle]) -> CounterStyle | None:
    """The counter style of that name, defined by the site or built into browsers; None for bullets."""
    style = known.get(name) or PREDEFINED.get(name.lower())
    if style is None:
        return None if name.lower() in SHAPES else PREDEFINED["decimal"]
    return style


def write_number(number: int, name: str, known: Mapping[str, CounterStyle], depth: int = 0) -> str:
    """The number in a style, without prefix and suffix; falls back as section 2.3 says."""
    style = resolve_style(name, known)
    if style is None or depth > MAX_COUNTER_FALLBACKS:
        return "" if style is None else str(number)
    if style.system == "extends":
        return write_number(number, style.extends, known, depth + 1)
    inside = (style.low is None or number >= style.low) and (style.high is None or number <= style.high)
    written = _written(abs(number) if style.negative else number, style) if inside else None
    if written is None:
        return write_number(number, style.fallback, known, depth + 1)
    if style.pad[1]:
        written = style.pad[1] * (style.pad[0] - len(written) - (len(style.negative) if number < 0 else 0)) + written
    return ((style.negative if number < 0 else "") + written)[:MAX_COUNTER_LENGTH]


def _written(number: int, style: CounterStyle) -> str | None:
    symbols, system = style.symbols, style.system
    count = len(symbols)
    if not count:
        return None
    if system == "cyclic":
        return symbols[(number - 1) % count]
    if system == "fixed":
        return symbols[number - style.first] if 0 <= number - style.first < count else None
    if system == "symbolic":
        return symbols[(number - 1) % count] * ((number - 1) // count + 1) if 0 < number < 1000 * count else None
    if system == "additive":
        return _added(number, style)
    if system not in ("numeric", "alphabetic") or count < 2 or (system == "alphabetic" and number < 1):
        return None
    digits: list[str] = []
    while number or not digits:
        number -= system == "alphabetic"
        digits.append(symbols[number % count])
        number //= count
    return "".join(reversed(digits))


def _added(number: int, style: CounterStyle) -> str | None:
    if not number:
        return next((s for s, w in zip(style.symbols, style.weights, strict=True) if not w), None)
    parts = []
    for symbol, weight in zip(style.symbols, style.weights, strict=True):
        if weight > 0 and number >= weight:
            times = min(number // weight, MAX_COUNTER_LENGTH)
            parts.append(symbol * times)
            number -= weight * times
    return None if number else "".join(parts)
