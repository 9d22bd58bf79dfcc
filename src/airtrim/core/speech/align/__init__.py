"""Exact words: an aligner says where each word of the recogniser is, and where a filler stands.

The recogniser knows which words were said, but its times are good to a few tenths of a second and
it leaves out most fillers. Here each phrase, a span between pauses, is decoded with a grammar of
its words in order and an optional filler between any two, in hops of 10 ms (the acoustic model and
the dictionary are PocketSphinx's for US English).

``phrases`` divides a recording, ``audio`` knows what sounds in a phrase, ``grammar`` is what may be
said in it, ``alignment`` what the decoder answered, ``fillers`` keeps hesitations apart, and
``aligner`` puts it together.
"""
