"""The streams that the program writes to, which may be closed, full, no terminal, or unable to show some characters.

What fonts, pages and project files say is made safe in one place, `visible`: a terminal obeys what it is shown.
"""

from __future__ import annotations

import io
import os
import re
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TextIO

# Controls but for line breaks and tabs; what turns the direction of text, or hides in it; halves of characters.
_UNSAFE = re.compile(
    "[\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ufff9-\ufffb\ud800-\udfff]"
)
_PLAIN = str.maketrans({"…": "...", "–": "-", "—": "-", "→": "->", "×": "x", "‘": "'", "’": "'", "“": '"', "”": '"',
                        "•": "*", "·": "-", "\u00a0": " ", "◌": "o"})  # fmt: skip


def visible(text: str) -> str:
    """The text with a replacement character for each that a terminal would obey instead of showing it."""
    return _UNSAFE.sub("\N{REPLACEMENT CHARACTER}", text)


def escaped_json(text: str, encoding: str) -> str:
    """A JSON document in which every character is escaped that a stream of this encoding cannot show, or obeys."""
    can_all = encoding.lower().replace("-", "").startswith("utf")
    pattern = _UNSAFE if can_all else re.compile(rf"{_UNSAFE.pattern}|[^\x00-\x7f]")
    return pattern.sub(lambda match: _json_escape(match[0]), text)


def _json_escape(character: str) -> str:
    units = character.encode("utf-16-be", "surrogatepass")
    return "".join(f"\\u{units[start]:02x}{units[start + 1]:02x}" for start in range(0, len(units), 2))


class Stream(io.TextIOBase):
    """A standard stream. What cannot be written any more is dropped, and remembered; it is no reason to stop work."""

    def __init__(self, stream: TextIO | None) -> None:
        """`stream` None is one that was closed when the program started."""
        self._stream = stream
        self._encoding = (getattr(stream, "encoding", None) or "utf-8") if stream is not None else "utf-8"
        #: Why writing failed; None if it has not. A closed pipe is not a failure.
        self.problem: OSError | None = None
        self._is_gone = stream is None

    @property
    def encoding(self) -> str:  # type: ignore[override]
        return self._encoding

    def isatty(self) -> bool:
        return self._stream is not None and self._stream.isatty()

    def fileno(self) -> int:
        if self._stream is None:
            raise io.UnsupportedOperation("fileno")
        return self._stream.fileno()

    def writable(self) -> bool:
        return True

    def write(self, text: str) -> int:
        if not isinstance(text, str):
            raise TypeError("only text can be written")
        if self._stream is not None and not self._is_gone:
            with self._failing():
                self._stream.write(self._writable(text))
        return len(text)

    def flush(self) -> None:
        if self._stream is not None and not self._is_gone:
            with self._failing():
                self._stream.flush()

    @contextmanager
    def _failing(self) -> Iterator[None]:
        try:
            yield
        except BrokenPipeError:
            self._is_gone = True
        except OSError as error:
            self._is_gone, self.problem = True, error
        except ValueError:  # it was closed meanwhile
            self._is_gone = True

    def _writable(self, text: str) -> str:
        try:
            text.encode(self._encoding)
        except UnicodeEncodeError:
            return text.translate(_PLAIN).encode(self._encoding, "backslashreplace").decode(self._encoding)
        except LookupError:
            pass
        return text

    def leave(self) -> None:
        """Flush for the last time. Python does it once more at its end, and must not fail then."""
        self.flush()
        if self._is_gone and self._stream is not None:
            with open(os.devnull, "w") as nowhere:  # noqa: PTH123  # a device, not a path of anybody's
                try:
                    os.dup2(nowhere.fileno(), self._stream.fileno())
                except (OSError, ValueError):
                    return


@contextmanager
def safe_streams() -> Iterator[Stream]:
    """Standard output and error are streams that can safely be written to; the first of them."""
    before = sys.stdout, sys.stderr
    out, messages = Stream(sys.stdout), Stream(sys.stderr)
    sys.stdout, sys.stderr = out, messages
    try:
        yield out
    finally:
        out.leave()
        messages.leave()
        sys.stdout, sys.stderr = before
