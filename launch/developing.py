"""./acuthesis dev: the demo world while it is worked on. The API reloads, the browser takes new code in at once."""

import argparse
import os
import signal
import subprocess
import time

from launch import homes, machine, postgres
from launch.machine import PYTHON, WEB
from launch.processes import dies_with_parent
from launch.serving import demo_world
from launch.steps import ROOT, CannotGoOn

DEV_PORT = 8716
STOPS_WITHIN_S = 10


def dev(arguments: list[str]) -> int:
    """Serve the demo's data at one address, with Vite before the API, until Ctrl-C. Raises: CannotGoOn."""
    parser = argparse.ArgumentParser(prog="./acuthesis dev")
    parser.add_argument("--port", type=int, default=DEV_PORT, help=f"port to open in the browser (default {DEV_PORT})")
    port = parser.parse_args(arguments).port
    home, api_port = homes.demo(), port + 1
    if (address := home.served()) is not None:
        raise CannotGoOn(f"The demo is running at {address}, on the same data. Stop it: ./acuthesis stop --of demo")
    for wanted in (port, api_port):
        if not postgres.port_is_free(wanted):
            raise CannotGoOn(f"port {wanted} is taken by another program. Choose another: ./acuthesis dev --port N")
    print("Acuthesis, for working on it", flush=True)
    machine.debian_packages(for_tests=False)
    machine.python_packages()
    node = machine.node_packages()
    machine.body_asset()
    running: list[subprocess.Popen[bytes]] = []
    signal.signal(signal.SIGTERM, signal.default_int_handler)  # as with Ctrl-C
    try:
        server = home.cluster.start()
        sign_in = demo_world(home, homes.keeper_environment(server))
        api = [str(PYTHON), "-m", "uvicorn", "acuthesis.api.app:app", "--host", "127.0.0.1", "--port", str(api_port)]
        api += ["--http", "acuthesis.api.protocol:TimedProtocol", "--reload", "--reload-dir", str(ROOT / "src")]
        # Not through npx: of a process in between the end would not reach Vite.
        vite = ["node", "node_modules/vite/bin/vite.js", "--host", "127.0.0.1", "--port", str(port), "--strictPort"]
        proxied = {"ACUTHESIS_API": f"http://127.0.0.1:{api_port}"}
        for command, folder, environment in (
            (api, ROOT, homes.app_environment(server)),
            (vite, WEB, {**node.env, **proxied}),
        ):
            started = subprocess.Popen(
                dies_with_parent(command), cwd=folder, env={**os.environ, **environment}, start_new_session=True
            )
            running.append(started)
        print(f"\n  http://127.0.0.1:{port}   {sign_in}\n  Ctrl-C stops everything.\n", flush=True)
        while all(one.poll() is None for one in running):
            time.sleep(0.5)
        raise CannotGoOn("the API or Vite has ended; what it said stands above.")
    finally:
        for one in running:
            one.terminate()
        for one in running:
            try:
                one.wait(STOPS_WITHIN_S)
            except subprocess.TimeoutExpired:
                one.kill()
        home.cluster.stop()
