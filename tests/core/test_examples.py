"""Every example in a docstring of the core runs, and says what it says."""

import doctest
import importlib
import pkgutil

import pytest

import acuthesis.core
import acuthesis.exchange

MODULES = [
    found.name
    for package in (acuthesis.core, acuthesis.exchange)
    for found in pkgutil.walk_packages(package.__path__, f"{package.__name__}.")
]


@pytest.mark.parametrize("name", MODULES)
def test_examples_run(name):
    assert doctest.testmod(importlib.import_module(name)).failed == 0
