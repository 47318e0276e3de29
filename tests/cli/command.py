"""Commands as a person types them: in this process, which knows the program already, or in one of their own."""

import io
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest.mock import patch

from oddpair.cli.app import main


def odd_pair(*words: str | Path) -> subprocess.CompletedProcess[str]:
    """Do a command here; return its exit status and what it said."""
    out, err = (io.TextIOWrapper(io.BytesIO(), encoding="utf-8", write_through=True) for _ in range(2))
    status = 0
    with patch.object(sys, "argv", ["odd-pair", *map(str, words)]), redirect_stdout(out), redirect_stderr(err):
        try:
            main()
        except SystemExit as ended:
            status = ended.code if isinstance(ended.code, int) else int(bool(ended.code))
    said = [stream.buffer.getvalue().decode("utf-8") for stream in (out, err)]
    return subprocess.CompletedProcess(list(map(str, words)), status, *said)


def odd_pair_process(*words: str | Path) -> subprocess.CompletedProcess[str]:
    """Do a command in a process of its own."""
    command = [sys.executable, "-m", "oddpair.cli", *map(str, words)]
    return subprocess.run(command, capture_output=True, text=True, check=False)
