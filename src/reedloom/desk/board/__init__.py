"""The board: cards, strands, bays and notes, and what hands do with them."""
