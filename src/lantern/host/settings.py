"""What `lantern serve` is told: by a file in TOML, and by the environment, which goes before it."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any, Literal
from urllib.parse import urlsplit

from pydantic import Field, ValidationError, field_validator
from pydantic_settings import (
    BaseSettings,
    PydanticBaseSettingsSource,
    SettingsConfigDict,
    TomlConfigSettingsSource,
)

from lantern.host.setup import STATE, SetupFailed


class Settings(BaseSettings):
    """Each setting is also LANTERN_ and its name in capital letters in the environment."""

    model_config = SettingsConfigDict(env_prefix="LANTERN_", extra="forbid")

    data: Path = STATE
    """The folder of the database, the key and the logs."""
    database: str = ""
    """The address of a PostgreSQL database of one's own; without it Lantern runs one itself."""
    host: str = "127.0.0.1"
    port: int = Field(default=8090, ge=1, le=65535)
    address: str = ""
    """How people reach Lantern, such as https://lantern.example."""
    stations: int = Field(default=1, ge=0, le=16)
    """Stations on this machine; others may join from elsewhere."""
    places: int = Field(default=2, ge=1, le=32)
    """Rows that each of them plays at once."""
    proxies: int = Field(default=0, ge=0, le=5)
    """Reverse proxies in front, whose word about who asks is taken."""
    metrics: Literal["token", "open"] = "token"
    """Whether figures for monitoring need an access token."""
    logs: Literal["files", "output"] = "files"
    """Where logs go: to files in the data folder, or to the output, as containers like it."""

    @field_validator("database")
    @classmethod
    def _check_database(cls, value: str) -> str:
        if value and urlsplit(value).scheme not in ("postgresql", "postgres"):
            raise ValueError("it begins with postgresql://")
        return value

    @field_validator("address")
    @classmethod
    def _check_address(cls, value: str) -> str:
        where = urlsplit(value)
        if value and (where.scheme not in ("http", "https") or not where.hostname):
            raise ValueError("it begins with http:// or https://")
        return value.rstrip("/")

    @classmethod
    def settings_customise_sources(
        cls,
        settings_cls: type[BaseSettings],
        init_settings: PydanticBaseSettingsSource,
        env_settings: PydanticBaseSettingsSource,
        dotenv_settings: PydanticBaseSettingsSource,
        file_secret_settings: PydanticBaseSettingsSource,
    ) -> tuple[PydanticBaseSettingsSource, ...]:
        """Let the environment go before the file."""
        file = os.environ.get(CONFIG)
        more = (TomlConfigSettingsSource(settings_cls, Path(file)),) if file else ()
        return (init_settings, env_settings, *more)


CONFIG = "LANTERN_CONFIG"
"""The environment's name for the file."""


def load(file: str | None = None) -> Settings:
    """Return the settings, of a file if one is named; raises SetupFailed with what is wrong."""
    if file:
        os.environ[CONFIG] = file
    named = os.environ.get(CONFIG, "")
    if named and not Path(named).is_file():
        raise SetupFailed(f"The file of settings {named} does not exist.")
    try:
        return Settings()
    except ValidationError as error:
        lines = [_told(one) for one in error.errors()]
        raise SetupFailed("The settings are wrong:\n" + "\n".join(lines)) from error
    except ValueError as error:  # no TOML
        raise SetupFailed(f"The file of settings {named} is no TOML: {error}") from error


def _told(error: Any) -> str:  # noqa: ANN401 - pydantic's own dictionary
    name = ".".join(map(str, error["loc"]))
    if error["type"] == "extra_forbidden":
        return f"  {name}: there is no such setting. Known are {', '.join(Settings.model_fields)}."
    return f"  {name}: {error['msg']} (it is {error['input']!r})"
