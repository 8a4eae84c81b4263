"""Open formats, out and in: a score as OpenTimelineIO, captions as WebVTT, lamps as a table, calls as CloudEvents."""
