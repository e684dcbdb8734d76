"""Tables and samples that were read and sorted, kept for the documents that may still want them."""

from collections.abc import Iterable
from typing import TYPE_CHECKING

from rhabdos.data.columns import bytes_of
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.figure.planning.data_request import Wanted, wanted
from rhabdos.project.document import Document, Source

if TYPE_CHECKING:
    from rhabdos.data.preparing import Stage

_KEPT_VALUES = 60_000_000  # sorted values kept for going back, about half a gigabyte

MOST_BYTES = 1 << 30
"""Bytes of tables that are kept for going back, the one in sight apart."""

_Origin = tuple[Source | None, Step | None]
_Key = tuple[Source, tuple[Step, ...], Wanted]


class Store:
    """Tables by source and beginning, their stages, and samples by what is wanted of them.

    What is longest unused goes first where it is too much: samples beyond half a gigabyte, tables
    beyond ``most_bytes``, which are read again when they are wanted. Of each table the stages of
    the last steps are kept.
    """

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._most_bytes = most_bytes
        self._tables: dict[_Origin, Table] = {}
        self._stages: dict[_Origin, tuple[Stage, ...]] = {}
        self._samples: dict[_Key, SampleSet] = {}

    def table(self, document: Document) -> Table | None:
        """The table that a document draws, if its steps were done."""
        stages = self.stages(document)
        if stages is None:
            return None
        return stages[-1].table if stages else self.read(document)

    def stages(self, document: Document) -> "tuple[Stage, ...] | None":
        """Each step of a document with the table after it; None where they were not done yet."""
        if self.read(document) is None:
            return None
        if not document.steps:
            return ()
        known = self._stages.get(_origin(document), ())
        done = tuple(stage.step for stage in known) == document.steps
        return known if done else None

    def stages_before(self, document: Document) -> "tuple[Stage, ...]":
        """The stages of the last steps of the same beginning, some of which may be the same."""
        return self._stages.get(_origin(document), ())

    def read(self, document: Document) -> Table | None:
        """The table that a document's steps begin with, if it was read."""
        return self._tables.get(_origin(document))

    def keep_table(self, document: Document, table: Table) -> None:
        """Keep a table that was read."""
        self._tables[_origin(document)] = table

    def keep_stages(self, document: Document, stages: "tuple[Stage, ...]") -> None:
        """Keep the steps that were done."""
        self._stages[_origin(document)] = stages

    def samples(self, document: Document) -> SampleSet | None:
        """The samples that a document draws, if they were sorted."""
        key = _key(document)
        samples = self._samples.pop(key, None)
        if samples is not None:
            self._samples[key] = samples  # now the last that was used
        return samples

    def keep_samples(self, document: Document, samples: SampleSet) -> None:
        """Keep the samples of a document, and let the longest unused go where they are too many."""
        key = _key(document)
        self._samples.pop(key, None)
        self._samples[key] = samples
        values = sum(other.pooled.n for other in self._samples.values())
        for old in list(self._samples):
            if values <= _KEPT_VALUES or old == key:
                break
            values -= self._samples.pop(old).pooled.n

    def keep_only(self, documents: Iterable[Document]) -> None:
        """Let go of all that belongs to origins which none of these documents draws, and of the
        tables longest unused where they are too many; the first document is the one in sight."""
        origins = [_origin(document) for document in documents]
        if origins and origins[0] in self._tables:  # now the last that was used
            self._tables[origins[0]] = self._tables.pop(origins[0])
        wanted = self._affordable(set(origins), origins[:1])
        for kept in (self._tables, self._stages):
            for origin in [origin for origin in kept if origin not in wanted]:
                del kept[origin]
        sources = {source for source, _ in wanted}
        for key in [key for key in self._samples if key[0] not in sources]:
            del self._samples[key]

    def _affordable(self, wanted: set[_Origin], in_sight: list[_Origin]) -> set[_Origin]:
        """The origins whose tables there is room for; what no file holds is cheap, and stays."""
        left = self._most_bytes
        kept = set(in_sight) | {origin for origin in wanted if origin not in self._tables}
        for origin in reversed(self._tables):
            if origin not in wanted or origin in kept:
                continue
            source, beginning = origin
            left -= self._size_of(origin)
            made_here = source is None or (source.path is None and beginning is None)
            if left >= 0 or made_here:
                kept.add(origin)
        return kept

    def _size_of(self, origin: _Origin) -> int:
        """The bytes of a table and of what its steps made of it, and of what lies on disk for
        it."""
        table = self._tables[origin]
        columns = {id(c): c for c in table.columns}
        for stage in self._stages.get(origin, ()):
            columns |= {id(c): c for c in stage.table.columns}
        aside = table.far.aside if table.far is not None else 0
        return aside + sum(bytes_of(column) for column in columns.values())


def _origin(document: Document) -> _Origin:
    return document.source, document.beginning


def _key(document: Document) -> _Key:
    assert document.source is not None
    assert document.recipe is not None
    return document.source, document.steps, wanted(document.recipe)
