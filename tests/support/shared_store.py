"""A store that several machines share: a folder, or an object store of this process."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import boto3
import httpx
import pytest
from moto.server import ThreadedMotoServer

from idle_shimmer.files.file_store import file_store
from idle_shimmer.settings import settings

BUCKET = "harbour"


def _forget_settings() -> None:
    settings.cache_clear()
    file_store.cache_clear()


@contextmanager
def using_store(url: str, data: Path) -> Iterator[None]:
    """Keep files in a store meanwhile, in this process and those that it starts; ``data`` is its data folder."""
    with pytest.MonkeyPatch.context() as environment:
        environment.setenv("IDLE_SHIMMER_STORE", url)
        environment.setenv("IDLE_SHIMMER_DATA", str(data))
        _forget_settings()
        yield
    _forget_settings()


@contextmanager
def object_store() -> Iterator[str]:
    """The URL of an empty object store that speaks S3, with its address and credentials in the environment."""
    server = ThreadedMotoServer(ip_address="127.0.0.1", port=0)
    server.start()
    host, port = server.get_host_and_port()
    # Servers of one process have one content.
    httpx.post(f"http://{host}:{port}/moto-api/reset", trust_env=False).raise_for_status()
    with pytest.MonkeyPatch.context() as environment:
        environment.setenv("AWS_ENDPOINT_URL", f"http://{host}:{port}")
        environment.setenv("AWS_ACCESS_KEY_ID", "lantern")
        environment.setenv("AWS_SECRET_ACCESS_KEY", "night")
        environment.setenv("AWS_DEFAULT_REGION", "us-east-1")
        boto3.client("s3").create_bucket(Bucket=BUCKET)
        yield f"s3://{BUCKET}/films"
    server.stop()


@contextmanager
def shared_store(scheme: str, folder: Path) -> Iterator[str]:
    """The URL of an empty store of a scheme."""
    if scheme == "file":
        yield f"file://{folder / 'store'}"
        return
    with object_store() as url:
        yield url
