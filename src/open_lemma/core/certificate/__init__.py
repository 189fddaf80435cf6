"""What a proof says, as plain data, and the verifier that checks it.

Nothing here knows how a result was found. A certificate holds a formula and claims about it; the verifier has an evaluator of its
own, strict about where a formula has a value, and rests on the ball library (Arb, through python-flint) alone.
"""
