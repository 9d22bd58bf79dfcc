"""What a host does, once for all faces: the API, the command line and jobs call here.

Nothing here knows of HTTP, of a terminal or of a queue.
"""
