"""Words to show a face in: those of the site where they are known, else sentences of our own in its languages."""

from __future__ import annotations

import itertools
import unicodedata
from collections.abc import Iterable, Sequence

from aksara.web.model import WebFace

#: A sentence of our own in languages, the most widely read first.
_SENTENCES = {
    "en": "The early boat leaves at 6:45 and waits for nobody.",
    "es": "El primer barco sale a las 6:45 y no espera a nadie.",
    "fr": "Le premier bateau part à 6 h 45 et n’attend personne.",
    "de": "Das erste Boot fährt um 6:45 Uhr und wartet auf niemanden.",
    "pt": "O primeiro barco sai às 6:45 e não espera por ninguém.",
    "it": "La prima barca parte alle 6:45 e non aspetta nessuno.",
    "id": "Kapal pertama berangkat pukul 6.45 dan tidak menunggu siapa pun.",
    "ms": "Bot pertama bertolak pukul 6.45 dan tidak menunggu sesiapa.",
    "vi": "Chuyến tàu đầu tiên rời bến lúc 6:45 và không đợi một ai.",
    "tr": "İlk vapur 6.45’te kalkar ve kimseyi beklemez.",
    "pl": "Pierwszy statek odpływa o 6:45 i na nikogo nie czeka.",
    "nl": "De eerste boot vertrekt om 6.45 uur en wacht op niemand.",
    "cs": "První loď vyplouvá v 6:45 a na nikoho nečeká.",
    "ro": "Prima barcă pleacă la 6:45 și nu așteaptă pe nimeni.",
    "hu": "Az első hajó 6:45-kor indul, és nem vár senkire.",
    "sv": "Den första båten går klockan 6.45 och väntar inte på någon.",
    "da": "Den første båd sejler klokken 6.45 og venter ikke på nogen.",
    "nb": "Den første båten går klokken 6.45 og venter ikke på noen.",
    "fi": "Ensimmäinen vene lähtee kello 6.45 eikä odota ketään.",
    "el": "Η πρώτη βάρκα φεύγει στις 6:45 και δεν περιμένει κανέναν.",
    "ru": "Первый катер уходит в 6:45 и никого не ждёт.",
    "uk": "Перший катер відходить о 6:45 і нікого не чекає.",
    "bg": "Първата лодка тръгва в 6:45 и не чака никого.",
    "sr": "Први брод полази у 6:45 и не чека никога.",
    "ar": "القارب الأول يبحر باكرا ولا ينتظر أحدا",
    "fa": "نخستین قایق زود می‌رود و منتظر کسی نمی‌ماند",
    "he": "הסירה הראשונה יוצאת מוקדם ואינה מחכה לאיש",
    "hi": "पहली नाव सुबह जल्दी निकलती है और किसी का इंतज़ार नहीं करती",
    "th": "เรือลำแรกออกแต่เช้าและไม่รอใคร",
    "ja": "始発の船は六時四十五分に出て、だれも待ちません。",
    "ko": "첫 배는 여섯 시 사십오 분에 떠나고 아무도 기다리지 않습니다.",
    "zh": "头班船六点四十五分开，谁也不等。",
}
#: Characters of a line of large letters, of a line of short texts, and those that stand for many.
_OPENING, _LINE, _LETTERS = 28, 40, 40


def can_set(face: WebFace, text: str) -> bool:
    """Whether the face has all that can be seen of the text; else half of it would be in another font."""
    characters = face.characters
    return all(ord(character) in characters for character in text if not character.isspace())


def texts_for(face: WebFace, site: Iterable[tuple[str, str]], languages: Sequence[str]) -> list[tuple[str, str]]:
    """Texts that the face can set in full, each with the tag of its language: the site's own, else in the languages
    that were asked for, else in the first that it has a sentence for, else its letters."""
    texts = _joined((language, text) for language, text in site if can_set(face, text))
    if not texts:
        wanted = [tag.partition("-")[0] for tag in languages]
        tags = [tag for tag in wanted if tag in _SENTENCES] or list(_SENTENCES)
        texts = [(tag, _SENTENCES[tag]) for tag in tags if can_set(face, _SENTENCES[tag])]
        texts = texts[: max(len(wanted), 1)]
    return texts or [("", some_letters(face.characters))]


def _joined(texts: Iterable[tuple[str, str]]) -> list[tuple[str, str]]:
    """Short texts of one language as one line, since a single word shows little of a face; longer ones as they are."""
    joined: list[tuple[str, str]] = []
    for language, text in texts:
        if joined and joined[-1][0] == language and len(joined[-1][1]) + len(text) < _LINE:
            joined[-1] = language, f"{joined[-1][1]} {text}"
        else:
            joined.append((language, text))
    return joined


def some_letters(characters: Iterable[int]) -> str:
    """The first letters among characters, else the first signs."""
    shown = [chr(code) for code in sorted(characters) if unicodedata.category(chr(code))[0] in "LNPS"]
    letters = [character for character in shown if character.isalpha()]
    return "".join((letters or shown)[:_LETTERS])


def opening(text: str) -> str:
    """As much of a text as fits on a line of large letters.

    >>> opening("The early boat leaves at 6:45."), opening("始発の船は六時四十五分に出て、だれも待ちません。")
    ('The early boat leaves at', '始発の船は六時四十五分に出て')
    """
    words = text.split()
    while len(words) > 1 and sum(map(_columns, " ".join(words))) > _OPENING:
        words.pop()
    line = " ".join(words)
    ends = itertools.accumulate(map(_columns, line))
    return line[: sum(end <= _OPENING for end in ends)]


def _columns(character: str) -> int:
    """Two for a character as wide as an ideograph, one for any other (UAX #11)."""
    return 2 if unicodedata.east_asian_width(character) in "WF" else 1
