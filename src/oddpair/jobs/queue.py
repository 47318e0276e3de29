"""The queue: Procrastinate on the same PostgreSQL, with its tables in the schema ``queue``."""

from procrastinate import App, PsycopgConnector, SyncPsycopgConnector

_CONNECTION = {"options": "-c search_path=queue"}
TASK = "run_job"


def make_worker_app(database_url: str) -> App:
    """Return the queue as the worker process uses it."""
    return App(connector=PsycopgConnector(conninfo=database_url, kwargs=_CONNECTION, min_size=1, max_size=4))


class JobQueue:
    """Wakes the worker; implements the protocol Enqueue. ``open`` before use, ``close`` after."""

    def __init__(self, database_url: str) -> None:
        connector = SyncPsycopgConnector(conninfo=database_url, kwargs=_CONNECTION, min_size=1, max_size=2)
        self._app = App(connector=connector)

    def open(self) -> None:
        """Connect."""
        self._app.open()

    def close(self) -> None:
        """Disconnect."""
        self._app.close()

    def __call__(self, job_id: int) -> None:
        """Wake the worker for a job whose row is committed."""
        self._app.configure_task(TASK).defer(job_id=job_id)
