"""What the environment may set: SALDATURA_DATA, the data file."""

from pathlib import Path


def own_data_file() -> Path:
    """The shop's own data file: what the environment names, else a file in the folder that this machine keeps for it."""
    # Only who names no file waits for what reads the environment.
    from platformdirs import user_data_path
    from pydantic import Field
    from pydantic_settings import BaseSettings, SettingsConfigDict

    class Settings(BaseSettings):
        model_config = SettingsConfigDict(env_prefix="SALDATURA_")

        data: Path = Field(default_factory=lambda: user_data_path("saldatura") / "saldatura.sqlite3")

    return Settings().data
