"""Open formats, exported and imported: scores as OpenTimelineIO, captions as WebVTT, lamps as a table, calls as
CloudEvents.
"""
