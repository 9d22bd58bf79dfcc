"""Many files through one recipe, each in a process of its own, with a report of all of them.

``planning`` says what is to be made, ``report`` what became of it, ``running`` makes it.
"""
