"""Tables and samples that were read and sorted, kept for the documents that may still want them."""

from collections.abc import Iterable
from typing import TYPE_CHECKING

from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.steps.step import Step, no_others
from rhabdos.data.table import Table
from rhabdos.figure.wanted import Wanted, wanted
from rhabdos.project.document import Document, Source

if TYPE_CHECKING:
    from rhabdos.data.preparing import Stage

_KEPT_VALUES = 60_000_000  # sorted values kept for going back, about half a gigabyte

_Key = tuple[Source, tuple[Step, ...], Wanted]


class Store:
    """Tables by source, and samples by source, steps and what is wanted of them.

    The samples longest unused go first.
    """

    def __init__(self) -> None:
        self._tables: dict[Source, Table] = {}
        self._samples: dict[_Key, SampleSet] = {}

    def table(self, document: Document) -> Table | None:
        """The table that a document draws: what was read of its source, after its steps."""
        table = self.read(document.source)
        if table is None or not document.steps:
            return table
        done = self.stages(document)
        return done[-1].table if done else table

    def stages(self, document: Document) -> "tuple[Stage, ...]":
        """Each step of a document with the table after it; what stayed the same is not redone.

        Raises
        ------
        Refusal
            A step cannot be done.
        """
        from rhabdos.data.preparing import stages  # which no start needs

        table = self.read(document.source)
        if table is None or not document.steps:
            return ()
        known: tuple[Stage, ...] = table.__dict__.get("_stages", ())
        if tuple(stage.step for stage in known) != document.steps:
            known = tuple(stages(table, document.steps, no_others, known))
            table.__dict__["_stages"] = known
        return known

    def read(self, source: Source | None) -> Table | None:
        """The table that was read of a source."""
        return self._tables.get(source) if source else None

    def keep_table(self, source: Source, table: Table) -> None:
        """Keep a table that was read."""
        self._tables[source] = table

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
        """Let go of all that belongs to sources which none of these documents draws."""
        wanted = {document.source for document in documents}
        for source in [source for source in self._tables if source not in wanted]:
            del self._tables[source]
        for key in [key for key in self._samples if key[0] not in wanted]:
            del self._samples[key]


def _key(document: Document) -> _Key:
    assert document.source is not None
    assert document.recipe is not None
    return document.source, document.steps, wanted(document.recipe)
