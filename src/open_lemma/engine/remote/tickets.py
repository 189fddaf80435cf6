"""The tasks that Celery carries to workers: each says only that a job waits; which one is taken is decided by whose turn it is."""

from __future__ import annotations

from celery import Celery

TASK = "open_lemma.take"


def queue_of(lane: str) -> str:
    return f"open-lemma-{lane}"


def celery_at(address: str) -> Celery:
    """Celery on a Redis server (Celery documentation, "Using Redis"). Nothing is pickled, nothing is kept of results."""
    app = Celery("open_lemma", broker=address, set_as_current=False)
    app.conf.update(
        task_ignore_result=True, task_serializer="json", accept_content=["json"], worker_prefetch_multiplier=1, task_acks_late=False,
        worker_hijack_root_logger=False, worker_enable_remote_control=False, worker_send_task_events=False,
        broker_connection_retry_on_startup=True, broker_connection_max_retries=None,
        broker_transport_options={"socket_connect_timeout": 2, "socket_timeout": 20, "socket_keepalive": True},
        worker_cancel_long_running_tasks_on_connection_loss=False,
    )  # fmt: skip
    return app


def send(app: Celery, lane: str) -> None:
    """Tell that a job waits. Raises kombu's OperationalError where Redis is away."""
    app.send_task(TASK, args=[lane], queue=queue_of(lane), retry=False)
