"""Where blocks are computed: worker processes of this machine, which nobody else can reach, or a team's cluster.

The local scheduler speaks TLS with a certificate that is made at every start and never leaves this process and its
children, so another account of the machine cannot hand it work. A team's scheduler is used as it is; over plain TCP
whoever reaches it can run what they like as its workers' account, and the log says so.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Mapping
from functools import cache
from pathlib import Path

import dask
import structlog
from distributed import Client, LocalCluster

import verdad_core
from verdad_core import ENGINE_VERSION
from verdad_core.errors import VerdadError

log = structlog.get_logger()

#: A worker takes about 200 MB.
MOST_WORKERS = 8

#: Seconds that a team's scheduler, and its first worker, have to answer.
PATIENCE = 5


class ClusterError(VerdadError):
    """Why no row can be computed there."""


@cache
def identity() -> str:
    """The engine's version and a hash of the core's sources: what numbers depend on besides their inputs."""
    digest, folder = hashlib.sha256(), Path(verdad_core.__file__).parent
    for source in sorted((*folder.rglob("*.py"), *folder.rglob("*.lib"))):
        digest.update(source.relative_to(folder).as_posix().encode())
        digest.update(source.read_bytes())
    return f"{ENGINE_VERSION}-{digest.hexdigest()[:16]}"


def open_client(scheduler: str | None) -> Client:
    """A team's cluster where `scheduler` names one, or a worker process on each of this machine's cores.

    Raises ClusterError where no worker answers, or one would give other numbers.
    """
    if scheduler is None:
        # Neither a dashboard nor any other page: what workers do is nobody else's.
        dask.config.set({f"distributed.{who}.http.routes": [] for who in ("scheduler", "worker")})
        cluster = LocalCluster(
            n_workers=min(os.cpu_count() or 1, MOST_WORKERS), threads_per_worker=1, security=True, protocol="tls://",
            dashboard_address="127.0.0.1:0", host="127.0.0.1", silence_logs="ERROR",
            scheduler_kwargs={"dashboard": False},
        )  # fmt: skip
        return Client(cluster, set_as_default=False)
    if scheduler.startswith("tcp://"):
        log.warning(
            "the scheduler is not protected: whoever reaches it can run programs as its workers' account",
            scheduler=scheduler, remedy="use tls:// with certificates, or keep it in a network of your own",
        )  # fmt: skip
    try:
        client = Client(scheduler, timeout=PATIENCE, set_as_default=False)
    except (OSError, ValueError) as error:
        raise ClusterError(
            f"the scheduler {scheduler} does not answer ({type(error).__name__})",
            remedy="Correct VERDAD_SCHEDULER, or start the scheduler, and start the service again.",
        ) from None
    try:
        require_same(client, scheduler)
    except BaseException:
        client.close()
        raise
    return client


def require_same(client: Client, scheduler: str) -> None:
    """Raise ClusterError where there is no worker, or one that runs other sources."""
    try:
        client.wait_for_workers(1, timeout=PATIENCE)
    except TimeoutError:
        raise ClusterError(
            f"the scheduler {scheduler} has no workers", remedy=f"Start some: dask worker {scheduler}."
        ) from None
    try:
        found: Mapping[str, str] = client.run(identity)
    except Exception as error:
        raise ClusterError(
            f"a worker of {scheduler} does not have Verdad ({type(error).__name__}: {error})",
            remedy="Install this version of it in the workers' environment.",
        ) from None
    others = [address for address, other in found.items() if other != identity()]
    if others:
        raise ClusterError(
            f"the worker {others[0]} runs version {found[others[0]]} of the engine, and the service {identity()}: its "
            "numbers would be no evidence",
            remedy="Install the same version on both.",
        )
