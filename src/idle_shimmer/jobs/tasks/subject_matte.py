"""Makes the mattes of a subject from its strokes."""

import json
import uuid
from functools import partial

import procrastinate

from idle_shimmer.core.compute.interruption import interruptible
from idle_shimmer.core.subject.strokes import strokes_from_json
from idle_shimmer.files.file_store import file_store
from idle_shimmer.files.space import disk_full, is_full
from idle_shimmer.jobs.blueprint import AGAIN, Ending, ending, tasks
from idle_shimmer.jobs.patience import keep, patiently
from idle_shimmer.jobs.pulse import Progress
from idle_shimmer.media.decode.client import RemoteReader
from idle_shimmer.output.subject.matte_making import make_mattes
from idle_shimmer.settings import settings
from idle_shimmer.store.clips import subject_mattes
from idle_shimmer.store.clips.clips import path_of


@tasks.task(name="make_matte", pass_context=True, retry=AGAIN)
def make_matte(context: procrastinate.JobContext, matte_id: str) -> None:
    """Make the mattes of a subject; the row has the state, and how much they change."""
    claim = subject_mattes.begin(uuid.UUID(matte_id))
    if claim is None:
        return
    file, strokes, first, last = claim.subject
    settings().mattes.mkdir(parents=True, exist_ok=True)
    name = f"{matte_id}-{claim.number}.mkv"

    progress = Progress(context, partial(subject_mattes.report_progress, claim))

    def finish(state: str, message: str) -> None:
        subject_mattes.finish(claim, state, message=message)

    with ending(claim, Ending("subject", finish, subject_mattes.release)):
        out = settings().mattes / name
        part = out.with_suffix(".part")
        try:
            with interruptible(progress.beat):
                changes = make_mattes(
                    path_of(file),
                    strokes_from_json(json.dumps(strokes)),
                    first,
                    last,
                    part,
                    progress.at,
                    RemoteReader,
                )
            progress.report()
            part.replace(out)
            keep(out, progress.report)
        except OSError as error:
            if is_full(error):
                raise disk_full("The subject", None) from error
            raise
        finally:
            part.unlink(missing_ok=True)
        if not patiently(lambda: subject_mattes.finish(claim, "done", file=name, changes=changes)):
            file_store().delete(out)
