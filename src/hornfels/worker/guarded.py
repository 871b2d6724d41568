"""How a job on a directory ends where it fails: in words."""

from __future__ import annotations

import logging
import traceback
from collections.abc import Callable

from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError, OperationalError

from hornfels.directory.reach import DirectoryError
from hornfels.formats.dump import DumpError, LdifError
from hornfels.refusals import RefusalError
from hornfels.store import jobs
from hornfels.store.models import JobRow

_log = logging.getLogger(__name__)


def guarded(
    engine: Engine,
    job: JobRow,
    work: Callable[[Engine, JobRow, jobs.Progress], None],
    fail: Callable[[Engine, JobRow, str], None],
) -> None:
    """Do it; `fail` ends the job and is told why. While the database is away, or when somebody
    stops it, the job is left as it is.
    """
    try:
        work(engine, job, jobs.Progress(engine, job.id))
    except (DirectoryError, RefusalError, DumpError) as error:
        fail(engine, job, str(error))
    except LdifError as error:
        fail(engine, job, f"The directory holds what cannot be read: {error.reason}.")
    except (OperationalError, jobs.StoppedError):
        raise
    except DBAPIError:
        fail(engine, job, "The database did not take it; nothing was stored. Try again.")
    except Exception as error:
        # Where it happened, never what was in hand.
        place = "".join(traceback.format_tb(error.__traceback__)[-6:])
        _log.error("The job “%s” failed with %s at\n%s", job.kind, type(error).__name__, place)
        fail(engine, job, "It failed unexpectedly. Please report it.")
