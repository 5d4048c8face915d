"""How one frame of a transition is made: what it needs, its plan, its picture."""
