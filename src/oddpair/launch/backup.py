"""Backup while Odd Pair runs, and restore into an empty folder: PostgreSQL's own dump, the delivered files, and secrets.

A backup is one tar file: ``about.json``, ``database.dump`` (pg_dump's custom format, one consistent moment), and below
``deliveries`` and ``secrets`` the kept files. Files are only ever added to, and are taken after the dump, so every file that
the dump knows is there.
"""

import io
import json
import os
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from ..settings import Settings
from ..store.database import migrate
from ..version import VERSION
from .postgres import PrivatePostgres, program
from .privileges import LaunchError, application_can_be_read_by_user, give_to_server_user
from .supervisor import database_of, only_one

_FOLDERS = ("deliveries", "secrets")
_DUMP, _ABOUT = "database.dump", "about.json"


def _run(command: list[str], what: str) -> None:
    done = subprocess.run(command, capture_output=True, text=True, check=False, cwd="/")
    if done.returncode != 0:
        last = (done.stderr.strip() or done.stdout.strip()).splitlines()[-1:]
        raise LaunchError(f"{what} failed: {last[0] if last else f'status {done.returncode}'}")


def _plain(url: str) -> str:
    return url.replace("postgresql+psycopg://", "postgresql://", 1)


def backup(settings: Settings, file: Path) -> int:
    """Write a backup of a data folder, whether or not Odd Pair is running; return its size in bytes. Nothing half is left."""
    part = file.with_name(file.name + ".part")
    version = PrivatePostgres(settings.data / "postgres").version
    try:
        with (
            database_of(settings) as url,
            tempfile.TemporaryDirectory(prefix="odd-pair-backup-", dir=file.parent) as name,
        ):
            dump = Path(name) / _DUMP
            _run(
                [program("pg_dump", version), "--format=custom", f"--file={dump}", f"--dbname={_plain(url)}"],
                "taking the backup",
            )
            with open(part, "wb", opener=lambda path, flags: os.open(path, flags, 0o600)) as out:
                with tarfile.open(fileobj=out, mode="w") as archive:
                    about = {"version": VERSION, "postgresql": version, "at": datetime.now(UTC).isoformat()}
                    _add_text(archive, _ABOUT, json.dumps(about))
                    archive.add(dump, _DUMP)
                    for folder in _FOLDERS:
                        if (settings.data / folder).is_dir():
                            archive.add(settings.data / folder, folder)
                out.flush()
                os.fsync(out.fileno())
        part.rename(file)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise LaunchError(f"the backup could not be written to {file}: {error.strerror}") from error
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    return file.stat().st_size


def _add_text(archive: tarfile.TarFile, name: str, content: str) -> None:
    info = tarfile.TarInfo(name)
    info.size = len(content.encode())
    archive.addfile(info, io.BytesIO(content.encode()))


def _extract(archive: tarfile.TarFile, member: tarfile.TarInfo, folder: Path) -> None:
    """Write a file or folder of an archive below ``folder``; raise LaunchError for anything that a backup never holds."""
    target = folder / member.name
    if not (member.isfile() or member.isdir()) or folder.resolve() not in (target.resolve(), *target.resolve().parents):
        raise LaunchError(f"the backup holds '{member.name}', which does not belong into one")
    if member.isdir():
        target.mkdir(mode=0o700, parents=True, exist_ok=True)
        return
    source = archive.extractfile(member)
    assert source is not None
    target.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    with source, open(target, "xb", opener=lambda path, flags: os.open(path, flags, 0o600)) as file:
        shutil.copyfileobj(source, file)


@contextmanager
def restored(settings: Settings, file: Path) -> Iterator[str]:
    """Restore a backup into an empty data folder; give the address of its database, running, so that it can be checked."""
    folder = settings.data
    if folder.exists() and any(path.name != "lock" for path in folder.iterdir()):
        raise LaunchError(f"{folder} is not empty; a backup is restored into an empty folder, named with --data")
    try:
        archive = tarfile.open(file)  # noqa: SIM115
    except (OSError, tarfile.TarError) as error:
        raise LaunchError(f"{file} cannot be read as a backup: {error}") from error
    with archive, only_one(folder):
        if _DUMP not in archive.getnames() or _ABOUT not in archive.getnames():
            raise LaunchError(f"{file} is no backup of Odd Pair")
        postgres = PrivatePostgres(folder / "postgres")
        try:
            url = postgres.start()
            with tempfile.TemporaryDirectory(prefix="odd-pair-restore-", dir=folder) as name:
                _extract(archive, archive.getmember(_DUMP), Path(name))
                options = ["--no-owner", "--exit-on-error", "--single-transaction", f"--dbname={url}"]
                _run([program("pg_restore", postgres.version), *options, f"{name}/{_DUMP}"], "restoring the database")
            for member in archive.getmembers():
                if member.name.split("/")[0] in _FOLDERS:
                    _extract(archive, member, folder)
            _close_folders(folder)
            address = url.replace("postgresql://", "postgresql+psycopg://", 1)
            migrate(address)
            yield address
        finally:
            postgres.stop()


def _close_folders(folder: Path) -> None:
    for name in _FOLDERS:
        for path in ((folder / name), *(folder / name).rglob("*")):
            if path.exists():
                mode = 0o700 if path.is_dir() else 0o600
                if application_can_be_read_by_user():
                    give_to_server_user(path, mode)
                else:
                    path.chmod(mode)
