"""The work of a family as plain values, so that other processes and machines can do it.

Fonts travel as the bytes of their tables, files come back as bytes; so whoever does the work needs Aksara of the same
version, and no disk that is shared.
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import BrokenExecutor, Executor, Future, as_completed
from typing import Self

from msgspec import Struct

from aksara.container import FontFormat
from aksara.font import Font
from aksara.pipeline.making.font_files import FontFiles, FontRecipe, make_font_files
from aksara.subsetting import Costs


class PackedFont(Struct, frozen=True):
    """A font that travels: what `Font` is made from."""

    tables: dict[str, bytes]
    flavour: str
    path: str
    container: FontFormat
    size: int
    metadata: bytes

    @classmethod
    def of(cls, font: Font) -> Self:
        """The font, packed."""
        tables = {tag: font.raw(tag) for tag in font}
        return cls(tables, font.flavour, font.path, font.container, font.size, font.metadata)

    def font(self) -> Font:
        """The font, unpacked."""
        return Font(
            self.tables, self.flavour, path=self.path, container=self.container, size=self.size, metadata=self.metadata
        )


class FilesTask(Struct, frozen=True):
    """The files of one font by one recipe: `font` is its place among those of the family."""

    font: int
    recipe: FontRecipe
    costs: Costs


class FamilyWork(Struct, frozen=True):
    """All files of a family: its fonts, each once, and what to make from them."""

    fonts: tuple[PackedFont, ...]
    tasks: tuple[FilesTask, ...]

    @classmethod
    def of(cls, parts: Sequence[tuple[Font, FontRecipe, Costs]]) -> Self:
        """The work of making these files."""
        fonts = {id(font): font for font, _, _ in parts}
        indices = {key: index for index, key in enumerate(fonts)}
        tasks = tuple(FilesTask(indices[id(font)], recipe, costs) for font, recipe, costs in parts)
        return cls(tuple(map(PackedFont.of, fonts.values())), tasks)

    def done(self) -> list[FontFiles]:
        """The files of each task. Raises as `make_font_files` does."""
        fonts = [packed.font() for packed in self.fonts]
        return [make_font_files(fonts[task.font], task.recipe, costs=task.costs) for task in self.tasks]


def work_elsewhere(executor: Executor, works: Sequence[FamilyWork]) -> list[list[FontFiles]]:
    """What the works give, in their order, done by the executor. What it loses since its workers broke down is done
    here. Raises the first error of the works, which ends the others that have not begun."""
    futures: list[Future[list[FontFiles]]] = [executor.submit(FamilyWork.done, work) for work in works]
    try:
        for future in as_completed(futures):
            if not isinstance(future.exception(), BrokenExecutor):
                future.result()
    except BaseException:
        for future in futures:
            future.cancel()
        raise
    return [
        work.done() if isinstance(future.exception(), BrokenExecutor) else future.result()
        for work, future in zip(works, futures, strict=True)
    ]
