"""Where heavy work is done: a call on a stretch, and its answer, on whatever machine has room.

What is heavy and pure (to recognise a stretch, to clean it) is a function of values, so it may run
anywhere: ``here`` in processes of this machine, ``inline`` in this very process, ``cluster`` on
other machines. ``order`` keeps some under way and yields their answers in turn.
"""
