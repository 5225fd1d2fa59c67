"""Reads the core's data files: YAML, strictly."""

from pathlib import Path
from typing import Any

import yaml


class _Loader(yaml.CSafeLoader):
    """YAML in which a key that stands twice in one mapping is an error, and not silently the last one."""

    def construct_mapping(self, node: yaml.MappingNode, deep: bool = False) -> dict[Any, Any]:
        seen = set()
        for key, _ in node.value:
            if key.value in seen:
                raise yaml.constructor.ConstructorError(None, None, f"Duplicate key “{key.value}”", key.start_mark)
            seen.add(key.value)
        return super().construct_mapping(node, deep)


def read(path: Path) -> Any:
    """A YAML data file. Raises: yaml.YAMLError naming the line, also for a key that stands twice."""
    return yaml.load(path.read_text(), Loader=_Loader)  # noqa: S506 - a safe loader
