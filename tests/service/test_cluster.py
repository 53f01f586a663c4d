"""Workers of this machine are nobody else's, and a team's are asked who they are before the first row."""

from __future__ import annotations

import urllib.error
import urllib.request
from typing import Any

import pytest
from distributed import Client, LocalCluster

from verdad.runs import cluster
from verdad.runs.cluster import ClusterError, identity, open_client, require_same


def test_the_local_scheduler_takes_nobody_without_its_certificate() -> None:
    client: Any = open_client(None)
    try:
        address = client.scheduler.address
        assert address.startswith("tls://127.0.0.1:")
        for foreign in (address, address.replace("tls://", "tcp://")):
            with pytest.raises((OSError, ValueError, TypeError)):
                Client(foreign, timeout=1, set_as_default=False)
        assert set(client.run(identity).values()) == {identity()}
        for path in ("", "/status", "/info/main/workers.html", "/json/identity.json", "/metrics"):
            port = client.run_on_scheduler(lambda dask_scheduler: dask_scheduler.http_server.port)
            with pytest.raises(urllib.error.HTTPError, match="404"):
                urllib.request.urlopen(f"http://127.0.0.1:{port}{path}", timeout=5)
    finally:
        client.close()
        client.cluster.close()


def test_a_scheduler_that_does_not_answer_is_told_by_its_name(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cluster, "PATIENCE", 1)
    with pytest.raises(ClusterError, match=r"tcp://127.0.0.1:9 does not answer"):
        open_client("tcp://127.0.0.1:9")


def test_no_workers_and_workers_of_another_version_are_refused_before_the_first_row(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(cluster, "PATIENCE", 1)
    with LocalCluster(n_workers=0, processes=False, dashboard_address=None) as empty, Client(empty) as client:
        with pytest.raises(ClusterError, match="has no workers"):
            require_same(client, "tcp://team")
        empty.scale(1)
        monkeypatch.setattr(cluster, "PATIENCE", 10)
        require_same(client, "tcp://team")
        monkeypatch.setattr(client, "run", lambda _: {"tcp://worker": "3-0123456789abcdef"})
        with pytest.raises(ClusterError, match="tcp://worker runs version 3-0123456789abcdef"):
            require_same(client, "tcp://team")
