"""Undo and redo: the list of a document's earlier values, each step with its name."""

from typing import Self

from msgspec import Struct, structs

from rhabdos.project.document import Document

_MOST_STEPS = 500  # that can be undone; they share what they have in common


class Step(Struct, frozen=True):
    """What was done, and the document before (in the past) or after it (in the future)."""

    name: str
    document: Document


class History(Struct, frozen=True):
    """A document with the steps that led to it and the steps that were undone."""

    present: Document
    past: tuple[Step, ...] = ()
    future: tuple[Step, ...] = ()

    @property
    def undo_name(self) -> str | None:
        """What the last step is called, if there is one."""
        return self.past[-1].name if self.past else None

    @property
    def redo_name(self) -> str | None:
        """What the step that was undone is called, if there is one."""
        return self.future[-1].name if self.future else None

    def did(self, name: str, document: Document) -> Self:
        """Record a step; what was undone before it is gone. A step that changes nothing is none."""
        if document == self.present:
            return self
        past = (*self.past, Step(name, self.present))[-_MOST_STEPS:]
        return type(self)(document, past)

    def seeing(self, document: Document) -> Self:
        """The same steps, with another figure of the same document in sight."""
        return structs.replace(self, present=document)

    def undone(self) -> Self:
        """The history one step back; itself at the beginning."""
        if not self.past:
            return self
        last = self.past[-1]
        return type(self)(
            last.document, self.past[:-1], (*self.future, Step(last.name, self.present))
        )

    def redone(self) -> Self:
        """The history one step on; itself at the end."""
        if not self.future:
            return self
        following = self.future[-1]
        return type(self)(
            following.document, (*self.past, Step(following.name, self.present)), self.future[:-1]
        )
