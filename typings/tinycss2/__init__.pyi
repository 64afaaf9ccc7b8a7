"""What Aksara calls of tinycss2, which has no types of its own."""

from collections.abc import Iterable

from tinycss2.ast import (
    AtRule as AtRule,
)
from tinycss2.ast import (
    Comment as Comment,
)
from tinycss2.ast import (
    ComponentValue as ComponentValue,
)
from tinycss2.ast import (
    Declaration as Declaration,
)
from tinycss2.ast import (
    Node as Node,
)
from tinycss2.ast import (
    ParseError as ParseError,
)
from tinycss2.ast import (
    QualifiedRule as QualifiedRule,
)
from tinycss2.ast import (
    WhitespaceToken as WhitespaceToken,
)

def parse_component_value_list(css: str, skip_comments: bool = ...) -> list[ComponentValue]: ...
def parse_one_rule(
    input: str | Iterable[ComponentValue], skip_comments: bool = ...
) -> QualifiedRule | AtRule | ParseError: ...
def parse_stylesheet(
    input: str | Iterable[ComponentValue], skip_comments: bool = ..., skip_whitespace: bool = ...
) -> list[QualifiedRule | AtRule | Comment | WhitespaceToken | ParseError]: ...
def parse_blocks_contents(
    input: str | Iterable[ComponentValue], skip_comments: bool = ..., skip_whitespace: bool = ...
) -> list[Declaration | QualifiedRule | AtRule | Comment | WhitespaceToken | ParseError]: ...
def serialize(nodes: Iterable[Node]) -> str: ...
