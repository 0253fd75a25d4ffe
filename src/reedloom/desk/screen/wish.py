"""What is wanted on screen, as one frozen value: asking twice for the same costs nothing."""

from __future__ import annotations

from msgspec import Struct

from reedloom.loom.background import Stage
from reedloom.loom.keys import Size
from reedloom.weave.document import End
from reedloom.weave.resolve import FlatGraph

CARDS_AT_ONCE = 48


class Wish(Struct, frozen=True):
    """Outputs wanted on screen, of one resolved document.

    Attributes
    ----------
    weave : int
        Which of the weaves that were opened it is of, so that a late report of another is not shown.
    views : tuple of End
        What the views show, wanted at `size` and, on the way, at `card_size`.
    cards : tuple of End
        What cards, rail and settings show, wanted at `card_size`.
    passing : bool
        Whether the document is not recorded, as while a value is dragged; large maps of it need not stay.
    """

    weave: int
    flat: FlatGraph
    views: tuple[End, ...]
    cards: tuple[End, ...]
    card_size: Size
    size: Size
    passing: bool = False

    def stages(self, cards_last: bool = False) -> tuple[Stage, ...]:
        """The steps in which it is computed, the most looked-at first.

        Cards can wait for the views while nothing else is on its way; a long drag would never come to them.
        """
        coarse, full, cards = [], [], []
        if self.views:
            coarse = [Stage("coarse", self.flat, self.views, self.card_size, True, unless=self.size)]
        if self.views and self.size != self.card_size:
            full = [Stage("full", self.flat, self.views, self.size, passing=self.passing)]
        for start in range(0, len(self.cards), CARDS_AT_ONCE):
            some = self.cards[start : start + CARDS_AT_ONCE]
            cards.append(Stage("cards", self.flat, some, self.card_size, patient=start == 0))
        return (*coarse, *full, *cards) if cards_last else (*coarse, *cards, *full)
