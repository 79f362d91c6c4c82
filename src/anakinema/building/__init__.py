"""What assembling needs to know: places to join at, what a join would do, and what is doubtful.

Nothing here changes a document: proposals come as edits, doubts with edits that would mend them.
"""
