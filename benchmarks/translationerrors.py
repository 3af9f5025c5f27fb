"""Injected errors of six kinds that the checks find, and good pairs that they flag; both directions.

The pairs are ``TEST`` of ``translated_pairs``: nothing was fitted to them. The
baseline is looking at length alone, as one who knows neither language could.
"""

import random
import re
import sys

from common import report
from translated_pairs import TEST

from dubrel.translation.checks import Told, doubts_of, flagged
from dubrel.translation.meaning import meanings
from dubrel.translation.wordlists import NEGATIONS, number_words

SPANISH = (
    "El barco llega por la mañana y nadie lo espera.",
    "Mi hermana trabaja en el jardín con sus hijos.",
    "Todavía no hemos encontrado las llaves de la casa.",
    "Hay que pintar las ventanas antes del invierno.",
)
EACH = 34


def swapped(pairs, nth, language, chance):
    return pairs[(nth + 7) % len(pairs)][1]


def without_not(pairs, nth, language, chance):
    words = pairs[nth][1].split()
    listed = set(NEGATIONS[language].split())
    kept = [word for word in words if re.sub(r"\W", "", word.lower()) not in listed]
    text = " ".join(kept)
    if language == "en":
        text = re.sub(r"\b(do|does|did|is|are|was|wo|ca|could|should|have|has|had)n't\b", r"\1", text)
    return text if text != pairs[nth][1] else None


def other_number(pairs, nth, language, chance):
    text = pairs[nth][1]
    if digits := re.search(r"\d+", text):
        return text[: digits.start()] + str(int(digits.group()) + 10) + text[digits.end() :]
    known = {word: value for word, value in number_words(language).items() if 2 <= value <= 20}
    for word in text.split():
        bare = re.sub(r"\W", "", word.lower())
        if bare in known:
            other = chance.choice([one for one, value in known.items() if value != known[bare]])
            return text.replace(word, word.lower().replace(bare, other), 1)
    return None


def half(pairs, nth, language, chance):
    words = pairs[nth][1].split()
    return " ".join(words[: len(words) // 2]) if len(words) > 5 else None


def other_language(pairs, nth, language, chance):
    return chance.choice(SPANISH)


def as_said(pairs, nth, language, chance):
    return pairs[nth][0]


KINDS = {
    "sentence swapped": swapped,
    "negation dropped": without_not,
    "number changed": other_number,
    "half missing": half,
    "another language": other_language,
    "not translated": as_said,
}


def told(source, target, languages, meaning):
    return Told(source, target, *languages, meaning=meaning)


def flags(pairs, languages):
    found = meanings(pairs, *languages)
    return [flagged(doubts_of(told(*pair, languages, one))) for pair, one in zip(pairs, found)]


def by_length(pairs):
    return [not 0.6 < len(other) / len(one) < 1.6 for one, other in pairs]


def main():
    chance, rows, ours, naive, all_of = random.Random(5), [], 0, 0, 0
    good_flagged = 0
    for languages in (("en", "pt"), ("pt", "en")):
        pairs = [(a, b) if languages[0] == "en" else (b, a) for a, b in TEST]
        good = flags(pairs, languages)
        good_flagged += sum(good)
        if "-v" in sys.argv:
            for pair, meaning, flag in zip(pairs, meanings(pairs, *languages), good):
                if flag:
                    print(
                        "good but flagged:",
                        pair,
                        [d.message for d in doubts_of(told(*pair, languages, meaning))],
                    )
        for kind, make in KINDS.items():
            order = list(range(len(pairs)))
            chance.shuffle(order)
            made = [
                (pairs[nth][0], text) for nth in order if (text := make(pairs, nth, languages[1], chance))
            ][: EACH // 2]
            found = flags(made, languages)
            if "-v" in sys.argv:
                for pair, flag in zip(made, found):
                    if not flag:
                        print("missed:", kind, pair)
            ours += sum(found)
            naive += sum(by_length(made))
            all_of += len(made)
            rows.append((kind, "→".join(languages), len(made), sum(found)))
    report(
        "translationerrors",
        injected=all_of,
        found=ours / all_of,
        found_by_length_alone=naive / all_of,
        ratio=ours / max(1, naive),
        good_pairs=2 * len(TEST),
        good_flagged=good_flagged / 2 / len(TEST),
        by_kind={f"{kind}, {way}": f"{right} of {count}" for kind, way, count, right in rows},
    )


if __name__ == "__main__":
    main()
