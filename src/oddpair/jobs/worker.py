"""The worker process: waits for jobs and runs them, one at a time."""

import asyncio
import logging

from ..services import work
from ..services.offline.warm_up import warm_up
from ..settings import Settings
from ..store.database import make_engine, make_sessions
from .queue import TASK, make_worker_app
from .tasks import run_job


async def _work(settings: Settings) -> None:
    sessions = make_sessions(make_engine(settings.sqlalchemy_url))
    app = make_worker_app(settings.database_url)

    @app.task(name=TASK, pass_context=False)
    async def run(job_id: int) -> None:
        await asyncio.to_thread(run_job, sessions, settings, job_id)

    async with app.open_async():
        with sessions.begin() as session:
            waiting = work.requeue_interrupted(session)
        for job_id in waiting:
            await app.configure_task(TASK).defer_async(job_id=job_id)
        await asyncio.to_thread(warm_up)
        await app.run_worker_async(concurrency=1, install_signal_handlers=True, shutdown_graceful_timeout=3)


def main() -> None:
    """Run until a signal stops the process."""
    logging.basicConfig(level=logging.WARNING, format="%(asctime)s worker %(levelname)s %(name)s: %(message)s")
    asyncio.run(_work(Settings()))


if __name__ == "__main__":
    main()
