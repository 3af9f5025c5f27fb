"""The made-up scenario: who says what in the demo recordings."""

from __future__ import annotations

VOICES = {"Isolde": "slt", "Tobiah": "rms", "Alasdair": "awb"}

# speaker, text, seconds of pause before it (below zero: talks over the one before)
PODCAST: list[tuple[str, str, float]] = [
    (
        "Isolde",
        (
            "Welcome back to Slow Water. This week we are down at the boatyard, where the narrowboat Heron "
            "has finally come out of the canal. Tobiah, what did you find when the water drained away?"
        ),
        3.2,
    ),
    (
        "Tobiah",
        (
            "Mostly oak, and most of it tired. The bottom boards at the stern are gone, you can put your "
            "thumb through them. The knees are sound though, and the sternpost is the original."
        ),
        0.7,
    ),
    (
        "Alasdair",
        (
            "I would like to say something about that post. Eighteen eighty one, and it still rings when "
            "you knock on it."
        ),
        0.5,
    ),
    ("Isolde", "Let us hear it.", 0.4),
    ("Tobiah", "That is not tapping, Alasdair, that is a mallet.", 1.6),
    ("Alasdair", "It is a very small mallet.", -0.25),
    (
        "Isolde",
        (
            "For anybody who is new, the Heron is seventy feet long and not quite seven feet wide. She"
            " carried flour and coal for sixty years, and then she was a houseboat, and then she was"
            " forgotten."
        ),
        0.8,
    ),
    (
        "Tobiah",
        (
            "Forgotten is kind. She sat in the reeds below the old mill for twenty winters. When we pumped"
            " her out there was a family of ducks in the cabin, and they were not happy with us."
        ),
        0.6,
    ),
    ("Isolde", "What happens to the boards now?", 0.5),
    (
        "Tobiah",
        (
            "We take them off one at a time. Each board shows us the shape of the next one. If you pull them"
            " all off at once, the boat forgets what she looks like."
        ),
        0.6,
    ),
    ("Alasdair", "Yes.", 0.3),
    (
        "Tobiah",
        (
            "So we make a pattern from thin plywood, we steam the new oak for an hour for every inch, and"
            " then we have about three minutes to bend it before it goes stiff."
        ),
        0.5,
    ),
    ("Isolde", "Three minutes?", 0.3),
    ("Tobiah", "Three minutes, with six people, thick gloves, and no arguing.", 0.4),
    ("Alasdair", "There is always a little arguing.", -0.2),
    ("Isolde", "Alasdair, you have been keeping the accounts. How much has it cost so far?", 0.9),
    (
        "Alasdair",
        (
            "Four thousand and two hundred for the timber, nine hundred for the crane, and forty for "
            "biscuits. The biscuits were not in the plan."
        ),
        0.6,
    ),
    ("Isolde", "And what comes next?", 0.4),
    (
        "Alasdair",
        (
            "Caulking. We drive cotton and tar between the boards with a hammer, so that she swells up tight"
            " when she goes back into the water. It is slow work, and it smells wonderful."
        ),
        0.6,
    ),
    ("Tobiah", "It smells of tar.", 0.3),
    ("Alasdair", "That is what I said.", 0.3),
    (
        "Isolde",
        (
            "We had a letter this week from a listener in the north. She asks whether it would not be cheaper"
            " to build a new boat out of steel."
        ),
        1.0,
    ),
    (
        "Tobiah",
        "Of course it would be cheaper. It would also be cheaper to look at a photograph of a boat.",
        0.6,
    ),
    (
        "Alasdair",
        (
            "The point is that somebody has to remember how it is done. My grandfather could do this in the"
            " dark. I need a book, and good light, and Tobiah shouting at me."
        ),
        0.5,
    ),
    ("Tobiah", "I do not shout.", 0.2),
    (
        "Isolde",
        (
            "Next time we will light the steam box and bend the first board. If you want to come and hold a "
            "clamp, the gate is open on Saturday from ten. Bring gloves."
        ),
        0.9,
    ),
    ("Alasdair", "And biscuits.", 0.3),
    ("Isolde", "And biscuits. This was Slow Water. Mind the lock, and good night.", 0.4),
]

FILM: list[tuple[str, str, float]] = [
    (
        "Isolde",
        (
            "Early in the morning the yard is quiet. The mist lies on the canal, and the Heron waits on her "
            "trestles."
        ),
        3.0,
    ),
    (
        "Tobiah",
        (
            "You look at her from the front first. If the two sides are not the same, you will see it here "
            "before you can measure it."
        ),
        2.2,
    ),
    ("Isolde", "Tobiah has rebuilt eleven boats. He says that each of them was going to be the last.", 1.6),
    (
        "Tobiah",
        (
            "The board comes out of the steam, and now nobody talks. You push, you breathe, you push again. "
            "Then the clamps go on."
        ),
        2.0,
    ),
    ("Tobiah", "Slowly, slowly. Good. Now leave her alone and let her think about it.", 2.6),
    ("Isolde", "By noon the first new plank is in its place, pale against the black of the old ones.", 1.8),
    (
        "Tobiah",
        "In a year you will not find it. That is the best thing that anybody can say about my work.",
        1.5,
    ),
    ("Isolde", "The lock gates open in the spring. Until then there is oak, and tar, and slow water.", 2.4),
]
