"""What everything costs when words are set into captions, in points.

One point is roughly one character of imbalance between two lines. The table
stands in ``docs/captions.md`` too; a test holds both together.
"""

from __future__ import annotations

VIOLATION = 1000.0
"""A rule of the house style is broken: nothing that can be avoided is worth it."""

# -- the text
CAPTION = 12.0  # each caption: fewer, fuller ones
LINE = 4.0  # each line after the first
END_CLAUSE, END_INSIDE = 10.0, 20.0  # a caption ends at a clause, or inside one
LINE_CLAUSE, LINE_INSIDE = 1.0, 4.0  # the same for a line
END_BOND, LINE_BOND = 0.8, 0.5  # times the strength of the bond that is cut (0 to 100)
TIGHT_FROM, TIGHT = 60.0, 12.0  # a bond above this counts so many times more for what is above
PAUSE_MS, PAUSE_GAIN, PAUSE_LEAST = 350, 30.0, 1.0  # a caption ends in a pause: so much less
VERSE = 60.0  # a line of a song ends with a line or a caption: so much less
INNER_SENTENCE = 26.0  # a sentence ends in a pause inside a caption
SILENCE_MS, INNER_SILENCE = 1500, 60.0  # a caption goes on over a silence
IMBALANCE = 1.0  # times the squares of the lines' lengths above those of even lines, over a line's length
TOP_HEAVY = 0.4  # a character, for each line below it, where lines are bottom-heavy
ORPHAN_LENGTH, ORPHAN = 5, 15.0  # a line of one short word
OVER_SINGLE = 60.0  # one line longer than the style's longest single line
OVER_LINE = 5.0  # a character of a word that is longer than a line

# -- the times
OVER_SIGN = 20.0  # a character more than can be read in time
SHORT = 0.2  # a millisecond less than the shortest time
EARLY, EARLY_FAR_MS, EARLY_FAR = 0.5, 200, 300.0  # a millisecond before the end of the last word
LATE = 0.2  # a millisecond after the first word
LEAD = 0.05  # a millisecond before the first word
LINGER = 0.002  # a millisecond after the last word
FLICKER = 25.0  # a gap that is neither closed nor long
SHOT_NEAR = 40.0  # a time beside a shot change
CRAMPED = 3000.0  # no room to be seen at all
LEAST_MS = 200  # what a caption always gets

# -- a translation
OFF_EDGE, EDGE_SHARE = (
    18.0,
    0.4,
)  # a caption ends where none of the original does; of the end's cost where one does
OVER_EDGE = 10.0  # a caption goes on where one of the original ends

# -- two people in one caption
ANSWER_MS = 1000  # how long after one person another may begin and still share a caption
