"""The server: records, background work and the HTTP interface; thin over the core.

``models`` holds the records, ``services`` does the work between views and core, ``api`` parses,
calls one service and answers, ``tasks`` is what workers run.
"""
