"""What the environment may set: SALDATURA_DATA, the data file."""

from pathlib import Path

from platformdirs import user_data_path
from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Settings from the environment."""

    model_config = SettingsConfigDict(env_prefix="SALDATURA_")

    data: Path = Field(default_factory=lambda: user_data_path("saldatura") / "saldatura.sqlite3")
