"""Other days: tests that know a date, run with the clock of another day (`faketime`): none may pass only today."""

import os
import subprocess

from launch.machine import TEST_PYTHON
from launch.steps import ROOT

# Each weekday; ten minutes before midnight; first and last days of a month and a year; both changes of summer time in
# Europe, and the ones in North America, which are on other days. By UTC, where the tests' machine is.
MOMENTS = (
    *("2026-12-07 09:00:00", "2026-12-08 09:00:00", "2026-12-09 09:00:00", "2026-12-10 09:00:00"),
    *("2026-12-11 09:00:00", "2026-12-12 09:00:00", "2026-12-13 09:00:00"),
    *("2026-12-31 23:50:00", "2027-01-01 00:05:00", "2027-02-28 23:50:00", "2027-03-01 09:00:00"),
    *("2027-03-28 00:50:00", "2027-10-31 00:50:00", "2027-03-14 09:50:00", "2028-02-29 09:00:00"),
)
# In a long run: a year that ends while the tests run.
IN_LONG = ("2026-12-31 23:50:00",)
OF_LONG = ("tests/api/test_booking.py", "tests/api/test_demo.py")
OF_API = (
    "tests/api/test_booking.py",
    "tests/api/test_time.py",
    "tests/api/test_demo.py",
    "tests/api/test_following.py",
)
OF_BROWSER = ("tests/browser/test_practice.py",)


def run_tests(moments: tuple[str, ...], files: tuple[str, ...], urls: dict[str, str]) -> int:
    """Run tests at each moment. Returns how many of these runs failed; what failed is printed."""
    failed = 0
    for moment in moments:
        # The clock that never goes back stays the machine's: what waits for seconds waits for real ones.
        environment = {**os.environ, **urls, "FAKETIME_DONT_FAKE_MONOTONIC": "1", "TZ": "UTC"}
        command = ["faketime", "-f", f"@{moment}", str(TEST_PYTHON), "-m", "pytest", "-q", "--no-header", *files]
        done = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, text=True, check=False)
        if done.returncode:
            failed += 1
            print(f"\n--- at {moment} UTC\n{done.stdout[-6000:]}{done.stderr[-2000:]}", flush=True)
        else:
            print(f"  at {moment} UTC: {done.stdout.strip().splitlines()[-1]}", flush=True)
    return failed
