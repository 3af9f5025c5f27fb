"""Every term of a glossary stands in the translation, however many a sentence holds."""

import random

import pytest

from dubrel.model import Term
from dubrel.translation.glossary import missing_in, spots_of
from dubrel.translation.preparing import translate_all
from dubrel.translation.translators.engines import translator

TERMS = {
    "oakum": "estopa",
    "keelson": "sobrequilha",
    "steambox": "caixa de vapor",
    "lock gate": "porta da eclusa",
    "narrowboat": "barco estreito",
    "adze": "enxó",
    "tar": "alcatrão",
    "knee": "curva",
}
SENTENCES = (
    "The {} and the {} were both rotten when we opened her up.",
    "They drove the {} into the {} with a hammer, and then they waited.",
    "{}, {} and {} lay on the floor of the shed.",
    "THE {} IS GONE, SAID THE MAN WITH THE {}.",
    "the {}, you see, holds the {}",
    "Without {} there is no {}.",
)
GLOSSARY = [Term(one, translations=(("pt", other),)) for one, other in TERMS.items()]


@pytest.mark.parametrize("template", SENTENCES)
def test_every_term_stands_in_the_translation(template):
    chance, builtin = random.Random(7), translator("builtin", "en", "pt")
    texts = []
    for _ in range(8):
        words = chance.sample(list(TERMS), template.count("{}"))
        texts.append(template.format(*(one.upper() if template.isupper() else one for one in words)))
    made = translate_all(builtin, texts, GLOSSARY, "pt")
    spots = [spots_of(text, GLOSSARY, "pt") for text in texts]
    assert [len(one) for one in spots] == [template.count("{}")] * 8
    assert [missing_in(one, other) for one, other in zip(spots, made)] == [[]] * 8


KNOWN = {"oakum": "carvalho", "we": "nós", "packed": "metemos", "the": "o", "into": "na", "gap": "fenda"}


class Forgetful:
    """A translator that loses whatever it does not know."""

    guarded = True

    def translate(self, texts):
        """Word for word, without those it does not know."""
        rows = [[word.strip(".").lower() for word in text.split()] for text in texts]
        return [" ".join(KNOWN[word] for word in row if word in KNOWN) for row in rows]


def test_a_term_goes_over_what_the_translator_makes_of_it_where_stand_ins_are_lost():
    [made] = translate_all(Forgetful(), ["We packed the oakum into the gap."], GLOSSARY, "pt")
    assert made == "nós metemos o estopa na o fenda"
