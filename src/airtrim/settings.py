"""Settings, from the environment (``AIRTRIM_…``) with defaults that just work."""

from pathlib import Path

from platformdirs import user_cache_path, user_data_path
from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

from airtrim.core.speech.recognisers import Recogniser, folder_of
from airtrim.logs import LogFormat, LogLevel


class Settings(BaseSettings):
    """Where data lives and what the server allows. ``allowed_hosts`` are origins inside this
    machine or its network that files may be handed over to (as JSON: ``["http://127.0.0.1:8766"]``);
    ``retry_wait_s`` how long a hand-over that broke off waits at first; ``speech_language`` is
    found by itself where it is empty; ``worker_nice`` how far work in the background gives way to
    whoever waits for a page, 0 to 19 (nice, POSIX); ``compute`` is the scheduler of other machines
    that do heavy work (``tcp://…`` or ``tls://…``), where there are any. ``simulated_microphones``
    adds the demo's microphones to every list of devices."""

    model_config = SettingsConfigDict(env_prefix="AIRTRIM_")

    data_dir: Path = user_data_path("airtrim")
    host: str = "127.0.0.1"
    port: int = 8765
    token: str = ""
    tls_certificate: Path | None = None
    tls_key: Path | None = None
    speech_model: Path | None = None
    speech_language: str = ""
    speech_recogniser: Recogniser = "quick"
    model_cache: Path = user_cache_path("airtrim") / "models"
    max_upload_bytes: int = 8_000_000_000
    keep_free_bytes: int = 200_000_000
    workers: int = 2
    worker_nice: int = Field(default=10, ge=0, le=19)
    compute: str = ""
    allowed_hosts: tuple[str, ...] = ()
    retry_wait_s: float = 1.0
    simulated_microphones: bool = False
    log_format: LogFormat = "text"
    log_level: LogLevel = "info"

    @property
    def model_folder(self) -> Path:
        """The folder of the recogniser that is used where nobody chooses: the one named, else the
        one that ships."""
        return self.model_of(self.speech_recogniser)

    def model_of(self, which: Recogniser) -> Path:
        """The folder of a recogniser. Raises BadInput where it is not installed."""
        return folder_of(which, self.model_cache, self.speech_model)
