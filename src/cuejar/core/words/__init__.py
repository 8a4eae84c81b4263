"""What everything is called in words: cues, rewards, doors, limits, beats, properties, reasons, differences; each
written once, here.
"""
