"""As whom processes run: started as root, the database, the web process and the worker run as Debian's user ``postgres``."""

import os
import pwd
import shutil
import subprocess
import sys
from functools import cache
from pathlib import Path

from ..core.errors import OddPairError

USER = "postgres"


class LaunchError(OddPairError):
    """The application could not be started; the message says why and what would help."""


def server_user() -> pwd.struct_passwd | None:
    """Return the user that servers run as, or None where it is whoever starts them; raise LaunchError if it is missing."""
    if os.geteuid() != 0:
        return None
    try:
        return pwd.getpwnam(USER)
    except KeyError as error:
        raise LaunchError(f"the user '{USER}' is missing; install Debian's package 'postgresql'") from error


def as_server_user() -> list[str]:
    """Return the options of ``setpriv`` that make a process run as the servers' user; none where it does already."""
    user = server_user()
    return ["--reuid", str(user.pw_uid), "--regid", str(user.pw_gid), "--clear-groups"] if user else []


@cache
def application_can_be_read_by_user() -> bool:
    """Whether the servers' user may read this program; below root's home it may not, and the program stays root's."""
    options = as_server_user()
    if not options:
        return True
    probe = ["setpriv", *options, "--", sys.executable, "-c", "import oddpair.settings"]
    return subprocess.run(probe, cwd="/", capture_output=True, check=False).returncode == 0


def give_to_server_user(path: Path, mode: int | None = None) -> None:
    """Let the servers' user own a path, where that is somebody else, and set its mode."""
    if server_user():
        shutil.chown(path, USER, USER)
    if mode is not None:
        path.chmod(mode)
