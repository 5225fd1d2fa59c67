"""Where things are and how the server behaves, from environment variables that begin with ACUTHESIS_."""

from functools import lru_cache
from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    """Settings of the process. Paths default to the checkout's own working folder."""

    model_config = SettingsConfigDict(env_prefix="ACUTHESIS_")

    database_url: str = "postgresql+psycopg://acuthesis_app@127.0.0.1:28329/acuthesis"
    owner_url: str = "postgresql+psycopg://acuthesis_owner@127.0.0.1:28329/acuthesis"
    body_asset: Path = ROOT / ".acuthesis" / "body.npz"
    web: Path = ROOT / "web" / "dist"
    session_hours: int = 14
    sign_in_tries: int = 8
    sign_in_window_s: int = 300
    secure_cookie: bool = False  # the server listens on loopback; behind a TLS proxy this is switched on


@lru_cache
def settings() -> Settings:
    """The settings, read once."""
    return Settings()
