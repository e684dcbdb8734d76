"""Questions that take long: they can be stopped, at the engine too."""

from concurrent.futures import ThreadPoolExecutor, wait
from typing import TYPE_CHECKING

from rhabdos.data.far.connection import Connection, Question
from rhabdos.data.reporting import Report

if TYPE_CHECKING:
    import polars as pl
    from sqlglot import exp

_BEAT = 0.05  # seconds between looks whether the user has stopped it


def asked_for(connection: Connection, query: "exp.Query", report: Report) -> "pl.DataFrame":
    """The rows that answer a query.

    Raises
    ------
    FarError
        The engine cannot answer.
    Cancelled
        From ``report``, once the engine has stopped too.
    """
    question = Question()
    # The engine answers in a thread of its own, so that this one can see a wish to stop.
    with ThreadPoolExecutor(1) as thread:
        answer = thread.submit(connection.ask, query, question)
        while wait([answer], timeout=_BEAT).not_done:
            try:
                report("Counting where the data lie", None)
            except BaseException:
                question.stop()
                raise
        return answer.result()
