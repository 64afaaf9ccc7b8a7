"""The nodes of tinycss2. The `type` of each class says which it is."""

from typing import Literal

class Node:
    source_line: int
    source_column: int
    def serialize(self) -> str: ...

class ParseError(Node):
    type: Literal["error"]
    kind: str
    message: str

class Comment(Node):
    type: Literal["comment"]
    value: str

class WhitespaceToken(Node):
    type: Literal["whitespace"]
    value: str

class LiteralToken(Node):
    type: Literal["literal"]
    value: str

class IdentToken(Node):
    type: Literal["ident"]
    value: str
    lower_value: str

class AtKeywordToken(Node):
    type: Literal["at-keyword"]
    value: str
    lower_value: str

class HashToken(Node):
    type: Literal["hash"]
    value: str
    is_identifier: bool

class StringToken(Node):
    type: Literal["string"]
    value: str
    representation: str

class URLToken(Node):
    type: Literal["url"]
    value: str
    representation: str

class UnicodeRangeToken(Node):
    type: Literal["unicode-range"]
    start: int
    end: int

class NumberToken(Node):
    type: Literal["number"]
    value: float
    int_value: int | None
    is_integer: bool
    representation: str

class PercentageToken(Node):
    type: Literal["percentage"]
    value: float
    int_value: int | None
    is_integer: bool
    representation: str

class DimensionToken(Node):
    type: Literal["dimension"]
    value: float
    int_value: int | None
    is_integer: bool
    representation: str
    unit: str
    lower_unit: str

class ParenthesesBlock(Node):
    type: Literal["() block"]
    content: list[ComponentValue]

class SquareBracketsBlock(Node):
    type: Literal["[] block"]
    content: list[ComponentValue]

class CurlyBracketsBlock(Node):
    type: Literal["{} block"]
    content: list[ComponentValue]

class FunctionBlock(Node):
    type: Literal["function"]
    name: str
    lower_name: str
    arguments: list[ComponentValue]

class Declaration(Node):
    type: Literal["declaration"]
    name: str
    lower_name: str
    value: list[ComponentValue]
    important: bool

class QualifiedRule(Node):
    type: Literal["qualified-rule"]
    prelude: list[ComponentValue]
    content: list[ComponentValue]

class AtRule(Node):
    type: Literal["at-rule"]
    at_keyword: str
    lower_at_keyword: str
    prelude: list[ComponentValue]
    content: list[ComponentValue] | None

ComponentValue = (
    ParseError
    | Comment
    | WhitespaceToken
    | LiteralToken
    | IdentToken
    | AtKeywordToken
    | HashToken
    | StringToken
    | URLToken
    | UnicodeRangeToken
    | NumberToken
    | PercentageToken
    | DimensionToken
    | ParenthesesBlock
    | SquareBracketsBlock
    | CurlyBracketsBlock
    | FunctionBlock
)
