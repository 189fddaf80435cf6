"""Whose turn it is: laws of the schedule, and what a person meets."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from open_lemma.engine.keeping import Kept
from open_lemma.engine.schedule import Schedule

ROOM, LONG, MOST = 8, 6, 14


class Jobs(RuleBasedStateMachine):
    """Any order of jobs that come, begin, grow long, go on and end."""

    def __init__(self) -> None:
        super().__init__()
        self.schedule = Schedule(ROOM, LONG, MOST)
        self.number = 0

    @rule(who=st.sampled_from("abcd"), weight=st.integers(1, 4))
    def comes(self, who: str, weight: int) -> None:
        self.number += 1
        self.schedule.add(self.number, who, weight)

    @rule()
    def begins(self) -> None:
        places = self.schedule.places()
        number = self.schedule.next()
        if number is not None:
            assert places[number] == 1

    def _any(self, data: st.DataObject, *states: str) -> int | None:
        found = [n for n, t in self.schedule.tickets.items() if t.state in states]
        return data.draw(st.sampled_from(found)) if found else None

    @rule(data=st.data())
    def ends(self, data: st.DataObject) -> None:
        number = self._any(data, "waiting", "short", "long", "paused")
        if number is not None:
            self.schedule.remove(number)
            assert self.schedule.state(number) is None

    @rule(data=st.data())
    def grows_long(self, data: st.DataObject) -> None:
        number = self._any(data, "short")
        if number is not None:
            goes_on = self.schedule.grew_long(number)
            assert self.schedule.state(number) == ("long" if goes_on else "paused")

    @rule()
    def goes_on(self) -> None:
        number = self.schedule.resumed()
        if number is not None:
            assert self.schedule.state(number) == "long"

    @precondition(lambda self: not any(t.state != "waiting" for t in self.schedule.tickets.values()))
    @rule()
    def something_begins_where_nothing_is_at_work(self) -> None:
        waiting = bool(self.schedule.tickets)
        assert (self.schedule.next() is not None) == waiting

    @invariant()
    def there_is_never_more_than_there_is_room_for(self) -> None:
        weight = self.schedule._weight
        assert weight("short", "long") <= ROOM
        assert weight("long") <= LONG
        assert weight("short", "long", "paused") <= MOST

    @invariant()
    def places_are_those_of_the_waiting(self) -> None:
        waiting = {n for n, t in self.schedule.tickets.items() if t.state == "waiting"}
        places = self.schedule.places()
        assert set(places) == waiting
        assert sorted(places.values()) == list(range(1, len(waiting) + 1))


TestJobs = Jobs.TestCase


def test_one_users_many_jobs_do_not_hold_up_anothers() -> None:
    schedule = Schedule(4, 4, 4)
    for number in range(50):
        schedule.add(number, "many", 2)
    assert [schedule.next(), schedule.next(), schedule.next()] == [0, 1, None]
    schedule.add(99, "one", 2)
    assert schedule.places()[99] == 1
    schedule.remove(0)
    assert schedule.next() == 99


def test_users_take_turns() -> None:
    schedule = Schedule(2, 2, 2)
    for number in range(9):
        schedule.add(number, "abc"[number // 3], 2)
    order = []
    while (number := schedule.next()) is not None:
        order.append(number)
        schedule.remove(number)
    assert order == [0, 3, 6, 1, 4, 7, 2, 5, 8]


def test_a_short_job_finds_room_beside_long_ones() -> None:
    schedule = Schedule(8, 6, 16)
    for number in range(8):
        schedule.add(number, "long", 2)
    begun = []
    while (number := schedule.next()) is not None:
        begun.append(number)
    assert begun == [0, 1, 2, 3]
    assert [schedule.grew_long(n) for n in begun] == [True, True, True, False]
    schedule.add(100, "short", 2)
    assert schedule.next() == 100
    # The paused one goes on when a long one has ended, before a new one of that user.
    schedule.remove(0)
    assert schedule.resumed() == 3


def test_a_job_heavier_than_all_room_fills_it() -> None:
    schedule = Schedule(4, 2, 8)
    schedule.add(1, "a", 100)
    assert schedule.next() == 1


@given(st.lists(st.tuples(st.sampled_from("abcdef"), st.binary(max_size=40)), max_size=60), st.integers(1, 120))
def test_bytes_are_kept_up_to_a_limit_and_the_latest_longest(puts: list[tuple[str, bytes]], limit: int) -> None:
    kept = Kept(limit)
    for key, data in puts:
        kept.put(key, data)
        assert kept.size <= limit
        assert kept.size == sum(len(kept.get(k)) for k in "abcdef")
        assert kept.get(key) == (data if len(data) <= limit // 4 else b"")
