"""Where the minutes of a test run went: by part of the suite, and each test that takes long."""

import json
from collections import defaultdict

from launch.steps import LOGS

from tests.tiers import SHORT

LONG_S = 15.0
DURATIONS = LOGS / "test-durations.json"


def pytest_terminal_summary(terminalreporter):
    seconds: dict[str, float] = defaultdict(float)
    for reports in terminalreporter.stats.values():
        for report in reports:
            if hasattr(report, "when") and hasattr(report, "duration"):
                seconds[report.nodeid] += report.duration
    parts: dict[str, float] = defaultdict(float)
    for nodeid, took in seconds.items():
        parts["/".join(nodeid.split("::")[0].split("/")[:2])] += took
    if len(seconds) < 2:
        return
    terminalreporter.section("time")
    for part, took in sorted(parts.items(), key=lambda part: -part[1]):
        terminalreporter.line(f"{took / 60:6.1f} min  {part}")
    for nodeid, took in sorted(seconds.items(), key=lambda test: -test[1]):
        if took > LONG_S:
            terminalreporter.line(f"{took:6.1f} s    {nodeid}")
    if SHORT:
        terminalreporter.line("What is marked long was left to ./acuthesis test --long.")
    DURATIONS.parent.mkdir(parents=True, exist_ok=True)
    DURATIONS.write_text(json.dumps({nodeid: round(took, 2) for nodeid, took in seconds.items()}, indent=0))
