"""A busy moment and a hostile one: what the server does while it is pushed, next to what it does when it is not.

`python -m benchmarks.push` works on a database server and an application of its own, and removes both. Everything goes
over loopback, bounded in number and time. Times are ratios to the same request on the idle server in the same run.
"""

import asyncio
import contextlib
import json
import statistics
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Any

import httpx

from acuthesis.store import access
from acuthesis.store.database import transaction
from benchmarks.kills import EMAIL, PASSWORD, Machine

BURSTS = (60, 200, 500)
GIVE_UP_S = 30.0
HALF_OPEN, HEADERS_WITHIN_S = 600, 10.0
STREAMS = 200
REACH = 5.0  # times the idle p99 that a cheap request may take beside heavy work
UNKNOWN_KEYS = 250_000


class Client:
    """Sends raw requests, so that the moment at which each is sent is ours to choose."""

    def __init__(self, port: int) -> None:
        self.port = port
        self.cookie = self.csrf = ""

    def sign_in(self) -> None:
        with httpx.Client(base_url=f"http://127.0.0.1:{self.port}") as http:
            me = http.post("/api/sign-in", json={"email": EMAIL, "password": PASSWORD})
            self.cookie = f"acuthesis_session={http.cookies['acuthesis_session']}"
            self.csrf = me.json()["csrf"]

    def request(self, method: str, path: str, body: bytes = b"", signed_in: bool = True, close: bool = True) -> bytes:
        who = f"Cookie: {self.cookie}\r\nX-CSRF: {self.csrf}\r\n" if signed_in else ""
        kind = f"Content-Type: application/json\r\nContent-Length: {len(body)}\r\n" if body else ""
        end = "Connection: close\r\n" if close else ""
        return f"{method} {path} HTTP/1.1\r\nHost: 127.0.0.1\r\n{who}{kind}{end}\r\n".encode() + body

    async def open(self) -> tuple[asyncio.StreamReader, asyncio.StreamWriter]:
        return await asyncio.open_connection("127.0.0.1", self.port)

    async def send(self, raw: bytes) -> tuple[int, float]:
        """Status (0: none came) and seconds of one request on a connection of its own."""
        begun = time.perf_counter()
        try:
            async with asyncio.timeout(GIVE_UP_S):
                reader, writer = await self.open()
                return await answered(reader, writer, raw), time.perf_counter() - begun
        except (TimeoutError, OSError):
            return 0, time.perf_counter() - begun


async def answered(reader: asyncio.StreamReader, writer: asyncio.StreamWriter, raw: bytes) -> int:
    """Send a request; its status, once the answer is whole. 0 where the server closed without one."""
    try:
        writer.write(raw)
        with contextlib.suppress(OSError):  # it refused before it had read everything; its answer is there all the same
            await writer.drain()
        head = await reader.readline()
        await reader.read()
        return int(head.split()[1]) if head else 0
    except (OSError, asyncio.IncompleteReadError):
        return 0
    finally:
        writer.close()


async def burst(client: Client, raw: bytes, number: int) -> tuple[Counter[int], float]:
    """Sockets are opened first; then everything is sent at the same moment."""
    pairs = [await client.open() for _ in range(number)]
    begun = time.perf_counter()

    async def one(pair: tuple[asyncio.StreamReader, asyncio.StreamWriter]) -> int:
        try:
            async with asyncio.timeout(GIVE_UP_S):
                return await answered(*pair, raw)
        except TimeoutError:
            return 0

    statuses = await asyncio.gather(*(one(pair) for pair in pairs))
    return Counter(statuses), time.perf_counter() - begun


async def p99(client: Client, seconds: float = 0.0, least: int = 200) -> float:
    """The 99th percentile of a cheap request, one after the other, in seconds."""
    took: list[float] = []
    until = time.perf_counter() + seconds
    while len(took) < least or time.perf_counter() < until:
        status, took_s = await client.send(client.request("GET", "/api/me"))
        if status != 200:
            raise RuntimeError(f"a cheap request was answered with {status}")
        took.append(took_s)
        await asyncio.sleep(0.005)
    return statistics.quantiles(took, n=100)[98]


def told(name: str, value: str, met: bool) -> bool:
    print(f"  {name:66}{value:>34}   {'met' if met else 'NOT MET'}", flush=True)
    return met


def statuses(counted: Counter[int], took_s: float) -> str:
    return (
        ", ".join(f"{count} × {status or 'none'}" for status, count in sorted(counted.items())) + f" in {took_s:.1f} s"
    )


def good(counted: Counter[int], *also: int) -> bool:
    return set(counted) <= {200, 503, 429, *also}


async def bursts(client: Client) -> bool:
    met = True
    for path in ("/api/health", "/api/me", "/api/day", "/"):
        for number in BURSTS:
            counted, took_s = await burst(client, client.request("GET", path), number)
            met &= told(f"{number} × GET {path}, all sent at once", statuses(counted, took_s), good(counted))
    wrong = json.dumps({"email": "nobody@bench.example", "password": "wrong-and-long"}).encode()
    counted, took_s = await burst(client, client.request("POST", "/api/sign-in", wrong, signed_in=False), 60)
    return met & told("60 × POST /api/sign-in, wrong password", statuses(counted, took_s), good(counted, 401))


async def beside(
    client: Client, name: str, idle: float, work: Callable[[], Awaitable[str]], reach: float = REACH
) -> bool:
    """The cheap request's p99 while something else goes on, as a multiple of the idle one."""
    going = asyncio.ensure_future(work())
    await asyncio.sleep(0.5)
    # Of enough requests that a hiccup of the machine is not taken for one of the server.
    loaded = await p99(client, least=300)
    while not going.done():
        loaded = max(loaded, await p99(client, least=300))
    what = await going
    ratio = loaded / idle
    return told(f"cheap p99 beside {name} ({what})", f"{loaded * 1000:.0f} ms, {ratio:.1f} × idle", ratio <= reach)


async def large_bodies(client: Client, idle: float) -> bool:
    unknown = json.dumps({f"key-{number}-{'x' * 20}": number for number in range(UNKNOWN_KEYS)}).encode()
    nested = b"[" * 100_000

    async def anonymous() -> str:
        return ", ".join(
            [
                str((await client.send(client.request("POST", "/api/sign-in", unknown, signed_in=False)))[0])
                for _ in "123"
            ]
        )

    async def known() -> str:
        asked = [("/api/people", unknown), ("/api/records", unknown), ("/api/records", nested)]
        return ", ".join([str((await client.send(client.request("POST", path, body)))[0]) for path, body in asked])

    met = await beside(client, f"{len(unknown) / 2**20:.0f} MB of unknown keys, a stranger's", idle, anonymous)
    return met & await beside(client, "the same from somebody signed in", idle, known)


async def slow_senders(client: Client, idle: float) -> bool:
    """Connections that never finish their headers, and one that stops in the middle of its body."""
    pairs = [await client.open() for _ in range(HALF_OPEN)]
    for _, writer in pairs:
        writer.write(b"GET /api/me HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ")

    async def waited() -> str:
        begun = time.perf_counter()
        closed = await asyncio.gather(*(asyncio.wait_for(reader.read(), 3 * HEADERS_WITHIN_S) for reader, _ in pairs))
        for _, writer in pairs:
            writer.close()
        return f"all {len(closed)} closed after {time.perf_counter() - begun:.0f} s"

    met = await beside(client, f"{HALF_OPEN} half-open requests", idle, waited)
    reader, writer = await client.open()
    writer.write(client.request("POST", "/api/people", b"{" + b" " * 4000).replace(b"4001", b"9000"))
    begun = time.perf_counter()
    head = await asyncio.wait_for(reader.read(), 60)
    writer.close()
    took_s, status = time.perf_counter() - begun, head.split()[1:2]
    return met & told(
        "a body that stops half-way", f"{b''.join(status).decode()} after {took_s:.0f} s", status == [b"408"]
    )


async def streams(client: Client, idle: float, visit_id: str) -> bool:
    opened = [await client.open() for _ in range(STREAMS)]
    live = client.request("GET", f"/api/visits/{visit_id}/treatment/live", close=False)
    for _, writer in opened:
        writer.write(live)
    heads = [await asyncio.wait_for(reader.readline(), GIVE_UP_S) for reader, _ in opened]

    async def open_streams() -> str:
        await asyncio.sleep(2)
        return f"{sum(b' 200 ' in head for head in heads)} open"

    met = await beside(client, f"{STREAMS} live streams", idle, open_streams)
    # A sign-out elsewhere: streams of that session end with it.
    other = Client(client.port)
    other.sign_in()
    reader, writer = await other.open()
    writer.write(other.request("GET", f"/api/visits/{visit_id}/treatment/live", close=False))
    await reader.readline()
    begun = time.perf_counter()
    status, _ = await other.send(other.request("POST", "/api/sign-out"))
    try:
        while not (await asyncio.wait_for(reader.read(4096), GIVE_UP_S)).endswith(b"0\r\n\r\n"):
            pass  # the connection stays open for another request; the stream on it is over
        took_s = time.perf_counter() - begun
    except TimeoutError:
        took_s = GIVE_UP_S
    for _, one in [*opened, (reader, writer)]:
        one.close()
    return met & told(f"a stream after its sign-out ({status})", f"ended after {took_s:.1f} s", took_s < 2)


async def heavy_work(client: Client, idle: float, prepared: dict[str, Any]) -> bool:
    async def compositions_and_letters() -> str:
        wish = {"complaint_ids": [prepared["complaint"]], "minutes": 60}
        compose = client.request("POST", f"/api/visits/{prepared['visit']}/what-if", json.dumps(wish).encode())
        plan = client.request("POST", f"/api/visits/{prepared['visit']}/programme", json.dumps(wish).encode())
        sheet = client.request("GET", f"/api/people/{prepared['person']}/plates?group=ST")
        letters = [
            client.request("POST", f"/api/people/{prepared['person']}/papers", body) for body in prepared["letters"]
        ]
        asked = [compose] * 4 + [plan] * 4 + [sheet] * 2 + letters
        done = await asyncio.gather(*(client.send(one) for one in asked))
        await asyncio.to_thread(letters_made, client, prepared["person"])
        return statuses(Counter(status for status, _ in done), max(took_s for _, took_s in done))

    return await beside(client, "8 compositions, 2 plates and 4 letters", idle, compositions_and_letters)


def letters_made(client: Client, person: str) -> None:
    """Wait until no letter is being made any more."""
    with httpx.Client(base_url=f"http://127.0.0.1:{client.port}", timeout=60) as http:
        http.headers.update({"Cookie": client.cookie, "X-CSRF": client.csrf})
        until = time.monotonic() + 120
        while any(one["state"] in ("waiting", "making") for one in http.get(f"/api/people/{person}/papers").json()):
            if time.monotonic() > until:
                raise RuntimeError("letters are not made within two minutes")
            time.sleep(0.5)


def prepare(client: Client) -> dict[str, Any]:
    """A person with a complaint, a rating, consent and a visit, as a practice would have them."""
    with httpx.Client(base_url=f"http://127.0.0.1:{client.port}", timeout=60) as http:
        http.headers.update({"Cookie": client.cookie, "X-CSRF": client.csrf})
        post = lambda path, body: http.post(path, json=body)  # noqa: E731
        person = post("/api/people", {"given_name": "Pushed", "born": "1990-01-01"}).json()["id"]
        post(f"/api/people/{person}/screenings", {"answers": {}})
        complaint = post(f"/api/people/{person}/complaints", {"kind": "neck_shoulder_ache", "side": "right"}).json()[
            "id"
        ]
        visit = http.get(f"/api/people/{person}/today").json()["visit_id"]
        letters = [
            json.dumps(
                {"id": f"00000000-0000-4000-8000-00000000000{number}", "kind": "summary", "complaint_ids": [complaint]}
            )
            for number in range(4)
        ]
        http.get(f"/api/people/{person}/figure")
    return {
        "person": person,
        "complaint": complaint,
        "visit": visit,
        "letters": [letter.encode() for letter in letters],
    }


async def push(port: int) -> bool:
    client = Client(port)
    await asyncio.to_thread(client.sign_in)
    prepared = await asyncio.to_thread(prepare, client)
    await p99(client)
    idle = await p99(client, least=400)
    print(f"  idle: GET /api/me answers within {idle * 1000:.0f} ms in 99 of 100", flush=True)
    met = await bursts(client)
    met &= await heavy_work(client, idle, prepared)
    met &= await large_bodies(client, idle)
    met &= await streams(client, idle, prepared["visit"])
    return met & await slow_senders(client, idle)


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)  # the database's own user has to get in
        machine = Machine(Path(folder))
        try:
            url = machine.server.url("acuthesis_app", "acuthesis")
            with transaction(url=url) as db:
                practice = access.add_practice(db, "Pushed")
                access.add_practitioner(db, practice.id, "Pushed", EMAIL, PASSWORD)
            met = asyncio.run(push(machine.port))
            log = Path(folder) / "logs" / "server.log"
            errors = log.read_text().count("Traceback") if log.exists() else 0
            met &= told("stack traces in the server's log", str(errors), errors == 0)
            return 0 if met else 1
        finally:
            machine.close()


if __name__ == "__main__":
    sys.exit(main())
