"""Settings: paths and the server's behaviour, from environment variables that begin with ACUTHESIS_."""

from functools import lru_cache
from pathlib import Path

from cryptography.fernet import Fernet
from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    """Settings of the process. Paths default to the checkout's own working folder."""

    model_config = SettingsConfigDict(env_prefix="ACUTHESIS_")

    database_url: str = "postgresql+psycopg://acuthesis_app@127.0.0.1:28329/acuthesis"
    body_asset: Path = ROOT / ".acuthesis" / "body.npz"
    web: Path = ROOT / "web" / "dist"
    session_hours: int = 14
    # Behind a proxy that speaks https: cookies are then sent over https alone, and browsers told to stay with it.
    https: bool = False
    # Requests to the API: generous for people at work. An address may be a whole practice's.
    requests_per_minute_session: int = 3_000
    requests_per_minute_address: int = 12_000
    # Keys (Fernet, comma between them, newest first) for what is encrypted in its column. The launcher makes and keeps
    # them; without it there is one for this process alone, which is enough for a test and for nothing else.
    secret_keys: str = Field(default_factory=lambda: Fernet.generate_key().decode())
    erasures: Path = ROOT / ".acuthesis" / "erasures.jsonl"  # the ledger of what was erased, outside the database
    processes: bool = True  # whether heavy work is done in processes of its own
    works: bool = True  # whether this process also does the jobs that wait; one that does is enough
    hosts: tuple[str, ...] = ("127.0.0.1", "localhost", "[::1]")  # names under which the application may be asked


@lru_cache
def settings() -> Settings:
    """The settings, read once."""
    return Settings()
