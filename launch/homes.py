"""Where an installation keeps its data: the demo in the checkout, a practice of one's own in a folder of its own.

Each has a database server, a state file and a database of its own. Whatever is done to one, the other does not notice.
"""

import argparse
import base64
import json
import secrets
import socket
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from launch.postgres import Cluster, Server
from launch.processes import is_alive
from launch.steps import WORK, CannotGoOn, write_private

NAMES = ("demo", "practice")
DATABASE = "acuthesis"


@dataclass(frozen=True)
class Home:
    """An installation: its name, and the folder that everything of it is in."""

    name: str
    folder: Path

    @property
    def cluster(self) -> Cluster:
        """Its database server."""
        return Cluster(self.folder, f"./acuthesis reset --of {self.name}")

    @property
    def state_file(self) -> Path:
        """Says what runs, while it runs."""
        return self.folder / "serve.json"

    @property
    def log(self) -> Path:
        """What happened to it: starts, ends, comings back."""
        return self.folder / "logs" / f"{self.name}.log"

    def exists(self) -> bool:
        """Whether it was ever made."""
        return self.cluster.exists()

    def state(self) -> dict[str, Any] | None:
        """What runs: host, port, launcher and web process, and since when; None where neither of the two does.

        A launcher that was killed may leave a web process behind: that is found here, too.
        """
        try:
            state = dict(json.loads(self.state_file.read_text()))
        except (FileNotFoundError, ValueError, TypeError):
            return None
        return state if is_alive(state.get("launcher")) or is_alive(state.get("web_process")) else None

    def served(self) -> str | None:
        """Address under which it answers on this machine, or None."""
        state = self.state()
        if state is None:
            return None
        with socket.socket() as probe:
            probe.settimeout(0.5)
            reached = probe.connect_ex((str(state["host"]), int(state["port"]))) == 0
        return f"http://{state['host']}:{state['port']}" if reached else None


def demo() -> Home:
    """The demo's."""
    return Home("demo", WORK)


def practice(data: str | None = None) -> Home:
    """A practice of one's own, in a folder that was named or in the checkout's own."""
    return Home("practice", Path(data).expanduser().resolve() if data else WORK / "practice")


def add_choice(parser: argparse.ArgumentParser) -> None:
    """The arguments by which a command is told which installation it is for."""
    parser.add_argument("--of", choices=NAMES, help="the demo, or your own practice; needed where there are both")
    parser.add_argument("--data", metavar="FOLDER", help="where the practice's data is, if serve was told so")


def chosen(arguments: argparse.Namespace, fresh: str | None = None) -> Home:
    """The installation that is meant: the one that was named, or else the only one there is.

    `fresh`: which is meant where there is none yet. Raises: CannotGoOn where it cannot be told.
    """
    if arguments.data or arguments.of == "practice":
        return practice(arguments.data)
    if arguments.of == "demo":
        return demo()
    there = [home for home in (demo(), practice()) if home.exists()]
    if len(there) == 1:
        return there[0]
    if not there and fresh is not None:
        return practice() if fresh == "practice" else demo()
    if not there:
        raise CannotGoOn("Nothing is set up yet. Run ./acuthesis demo or ./acuthesis serve.")
    raise CannotGoOn("there are the demo and a practice of your own. Say which: --of demo, or --of practice.")


def secret_keys(folder: Path) -> list[str]:
    """The keys for what is encrypted in its column, newest first: in a file beside the database, never in it or its
    dumps. Made where there is none."""
    path = folder / "secret-keys.txt"
    if not path.exists():
        write_private(path, new_secret_key() + "\n")
    return path.read_text().split()


def new_secret_key() -> str:
    """A new key (Fernet: 32 random bytes)."""
    return base64.urlsafe_b64encode(secrets.token_bytes(32)).decode()


def write_secret_keys(folder: Path, keys: list[str]) -> None:
    """Keep these keys, newest first."""
    write_private(folder / "secret-keys.txt", "\n".join(keys) + "\n")


def ledger(folder: Path) -> Path:
    """The ledger of erased records: outside the database, so that no dump brings one back."""
    return folder / "erasures.jsonl"


def app_environment(server: Server, database: str = DATABASE) -> dict[str, str]:
    """What the web process gets: the application's role, which owns nothing, and no other."""
    return {
        "ACUTHESIS_DATABASE_URL": server.url("acuthesis_app", database),
        "ACUTHESIS_SECRET_KEYS": ",".join(secret_keys(server.folder)),
        "ACUTHESIS_ERASURES": str(ledger(server.folder)),
    }


def keeper_environment(server: Server, database: str = DATABASE) -> dict[str, str]:
    """What makes and migrates a database gets: the owner's and the superuser's addresses too."""
    return {
        **app_environment(server, database),
        "ACUTHESIS_OWNER_URL": server.url("acuthesis_owner", database),
        "ACUTHESIS_ADMIN_URL": server.url("postgres", "postgres"),
    }
