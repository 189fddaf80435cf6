"""Which waiting job begins next: fair between users, within the room that the machine has. No clock and no processes in here.

Every job has a weight. Those at work together may weigh `room`. A job that has been at work for long is *long*; long ones together may
weigh `long_room`, less than all, so that a short job always finds a place beside them: a job that becomes long where there is no room
for it is paused until there is. Paused jobs keep their memory, so all that live, paused or not, may weigh `most`.
"""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from typing import Literal

State = Literal["waiting", "short", "long", "paused"]


@dataclass
class Ticket:
    """A job's place in all of this. `who`: whose it is."""

    number: int
    who: str
    weight: int
    state: State = "waiting"


class Schedule:
    """Jobs by their numbers. Among users the one of whom least is at work comes first; of equals the one who began nothing for longest."""

    def __init__(self, room: int, long_room: int, most: int) -> None:
        self.room, self.long_room, self.most = room, long_room, most
        self.tickets: OrderedDict[int, Ticket] = OrderedDict()
        self._turn: dict[str, int] = {}  # when each user last began something
        self._turns = 0

    def add(self, number: int, who: str, weight: int) -> None:
        """A job of more weight than there is room is taken as one that fills it."""
        self.tickets[number] = Ticket(number, who, min(weight, self.room, self.long_room, self.most))

    def remove(self, number: int) -> None:
        """The job has ended, or is not wanted any more."""
        ticket = self.tickets.pop(number, None)
        if ticket is not None and all(t.who != ticket.who for t in self.tickets.values()):
            self._turn.pop(ticket.who, None)

    def _weight(self, *states: State) -> int:
        return sum(t.weight for t in self.tickets.values() if t.state in states)

    def _has_room(self, ticket: Ticket) -> bool:
        # Long jobs count among those at work; the room that they may not take is for the others.
        return (
            self._weight("short", "long") + ticket.weight <= self.room
            and self._weight("short", "long", "paused") + ticket.weight <= self.most
        )

    def _first(self, waiting: list[Ticket]) -> Ticket:
        """The fair first: of the user with the least at work, the oldest job."""
        at_work: dict[str, int] = {}
        for t in self.tickets.values():
            if t.state != "waiting":
                at_work[t.who] = at_work.get(t.who, 0) + t.weight
        return min(waiting, key=lambda t: (at_work.get(t.who, 0), self._turn.get(t.who, 0), t.number))

    def next(self) -> int | None:
        """The job that may begin now, taken as begun; None where there is none or no room for the one whose turn it is."""
        waiting = [t for t in self.tickets.values() if t.state == "waiting"]
        if not waiting:
            return None
        ticket = self._first(waiting)
        if not self._has_room(ticket):
            return None
        self._turns += 1
        self._turn[ticket.who] = self._turns
        ticket.state = "short"
        return ticket.number

    def grew_long(self, number: int) -> bool:
        """A job has been at work for long: True where it goes on, False where it is to be paused."""
        ticket = self.tickets[number]
        if ticket.state == "short":
            ticket.state = "long" if self._weight("long") + ticket.weight <= self.long_room else "paused"
        return ticket.state == "long"

    def resumed(self) -> int | None:
        """A paused job that may go on now, the oldest of the user with the least at work; None where there is none."""
        paused = [t for t in self.tickets.values() if t.state == "paused"]
        if not paused:
            return None
        at_work = {t.who: 0 for t in paused}
        for t in self.tickets.values():
            if t.state == "long" and t.who in at_work:
                at_work[t.who] += t.weight
        ticket = min(paused, key=lambda t: (at_work[t.who], t.number))
        if self._weight("long") + ticket.weight > self.long_room or self._weight("short", "long") + ticket.weight > self.room:
            return None
        ticket.state = "long"
        return ticket.number

    def state(self, number: int) -> State | None:
        found = self.tickets.get(number)
        return found.state if found is not None else None

    def places(self) -> dict[int, int]:
        """For each waiting job how many will begin before it, plus one, if nothing else came."""
        at_work: dict[str, int] = {}
        queues: dict[str, list[Ticket]] = {}
        for t in self.tickets.values():
            if t.state == "waiting":
                queues.setdefault(t.who, []).append(t)
            else:
                at_work[t.who] = at_work.get(t.who, 0) + t.weight
        turn = dict(self._turn)
        found: dict[int, int] = {}
        count = 0
        while queues:
            who = min(queues, key=lambda w: (at_work.get(w, 0), turn.get(w, 0), queues[w][0].number))
            ticket = queues[who].pop(0)
            if not queues[who]:
                del queues[who]
            count += 1
            found[ticket.number] = count
            at_work[who] = at_work.get(who, 0) + ticket.weight
            turn[who] = self._turns + count
        return found
