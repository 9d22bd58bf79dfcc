"""Handing an episode over from scripts: made where it is not, sent, read back, published."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from airtrim.cli.base import Data, Json, app, fail, opened, print_report, settings_of_data

if TYPE_CHECKING:
    from airtrim.settings import Settings
    from airtrim.store.store import Store
    from airtrim.store.tables import JobRow


@app.command()
def release(
    episode: Annotated[int, typer.Argument(help="The number in its address.")],
    to: Annotated[str, typer.Option(help="Name of a destination of its show.")],
    publish: Annotated[
        bool, typer.Option("--publish", help="Publish it when it is there.")
    ] = False,
    again: Annotated[
        bool, typer.Option("--again", help="Also where this state was handed over before.")
    ] = False,
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Hand an episode over as it is now, as MP3, and publish it if told so."""
    settings = settings_of_data(data)
    with opened(settings) as store:
        report = _released(store, settings, episode, to, publish=publish, again=again)
    if as_json:
        print_report(report, True)
    else:
        print(f"{report['where']}: {report['state']} {report['page']}".rstrip())


def _released(
    store: "Store", settings: "Settings", episode_id: int, to: str, *, publish: bool, again: bool
) -> dict[str, object]:
    from airtrim.jobs.kinds.handing_over import HAND_OVER, PUBLISH, HandOverParams
    from airtrim.services.handing.base import Allowed
    from airtrim.services.handing.over import begin

    _, show = store.episode(episode_id)
    kept = {row.name: row for row in store.destinations(show.id or 0)}
    if to not in kept:
        names = ", ".join(f"“{name}”" for name in kept) or "none"
        fail(f"{show.name} has no destination “{to[:80]}”; it has {names}.")
    export = _export(store, settings, episode_id)
    allowed = Allowed(settings.allowed_hosts, settings.data_dir)
    row = begin(
        store, allowed, episode_id, kept[to].id or 0, export_id=export.id, file=0, again=again
    )
    params = HandOverParams(hand_over=row.id)
    _done(store, settings, HAND_OVER.queued(store, episode_id, params))
    if publish and store.hand_over(row.id).state == "draft":
        _done(store, settings, PUBLISH.queued(store, episode_id, params))
    found = store.hand_over(row.id)
    file = store.files.export(export.id)
    return {
        "where": to,
        "state": found.state,
        "page": found.page,
        "sha256": found.sha256,
        "revision": found.revision,
        "folder": str(Path(file)),
    }


def _export(store: "Store", settings: "Settings", episode_id: int) -> "JobRow":
    """The newest export of the episode as it is now; made where there is none."""
    from airtrim.core.release.export import ExportSettings
    from airtrim.jobs.kinds.exporting import EXPORT, ExportParams
    from airtrim.services.exporting import called

    episode, _ = store.episode(episode_id)
    revision = episode.head_id or 0
    for job in reversed(store.jobs(episode_id, ("done",))):
        if job.kind == EXPORT.name and EXPORT.params_of(job).revision == revision:
            return job
    name = called(store, episode_id, store.timeline(episode_id, revision))
    params = ExportParams.of(revision, (ExportSettings(),), name, despite_damage=False)
    return _done(store, settings, EXPORT.queued(store, episode_id, params))


def _done(store: "Store", settings: "Settings", job: "JobRow") -> "JobRow":
    """The job, done here and now. Ends the command where it failed."""
    from airtrim.jobs.lifecycle import run

    run(store, settings, job.id, lambda _: None)
    found = store.job(job.id)
    if found.state != "done":
        fail(found.error or "That did not work.")
    return found
