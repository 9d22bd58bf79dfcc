"""What tests of the API do as a host would."""

import io

import soundfile
from fastapi.testclient import TestClient

from airtrim.jobs.lifecycle import run
from tests.reference import RATE, programme
from tests.serving import upload

HERE = "http://127.0.0.1"
THERE = "ws://127.0.0.1"


def wav(seconds: float = 6.0, seed: int = 1) -> bytes:
    buffer = io.BytesIO()
    soundfile.write(buffer, programme(seconds, 1, seed), RATE, format="WAV", subtype="PCM_16")
    return buffer.getvalue()


class Host:
    """A client with the steps a host takes, and the worker's work done on the spot."""

    def __init__(self, client: TestClient) -> None:
        self.client = client
        self.state = client.app.state.airtrim

    def new_episode(self) -> int:
        show = self.client.post("/api/shows", json={"name": "Show"}).json()["id"]
        made = self.client.post(f"/api/shows/{show}/episodes", json={"title": "One"})
        return int(made.json()["id"])

    def work(self, job: str) -> dict:
        run(self.state.store, self.state.settings, job, lambda _: None)
        return self.client.get(f"/api/jobs/{job}").json()

    def filled(self, data: bytes | None = None, name: str = "take.wav") -> int:
        episode = self.new_episode()
        done = self.work(upload(self.client, episode, data or wav(), name))
        assert done["state"] == "done", done
        return episode

    def view(self, episode: int) -> dict:
        return self.client.get(f"/api/episodes/{episode}").json()

    def edit(self, episode: int, edit: dict, revision: int | None = None, snap: bool = False):
        revision = self.view(episode)["revision"] if revision is None else revision
        body = {"revision": revision, "edit": edit, "snap": snap}
        return self.client.post(f"/api/episodes/{episode}/edits", json=body)
