"""The class of a word as far as breaks need it: article, preposition, auxiliary, name and so on.

Words that join others (the closed classes) are listed for English, Spanish,
French, Portuguese and Dutch; all other words of English and German are told
by a trained tagger. A word is judged by itself, so that each is judged once.
"""

from __future__ import annotations

import re
from enum import IntEnum
from functools import lru_cache
from typing import Any


class WordClass(IntEnum):
    """What a word is to its neighbours."""

    OTHER = 0
    DETERMINER = 1
    PREPOSITION = 2
    OF = 3
    TO = 4
    CONJUNCTION = 5
    RELATIVE = 6
    AUXILIARY = 7
    NEGATION = 8
    PRONOUN = 9
    VERB = 10
    NOUN = 11
    NAME = 12
    ADJECTIVE = 13
    ADVERB = 14
    DEGREE = 15
    NUMBER = 16
    TITLE = 17


_W = WordClass
_LISTS: dict[str, dict[WordClass, str]] = {
    "en": {
        _W.DETERMINER: (
            "a an the my your his her its our their this these those every each some any no another "
            "both either neither"
        ),
        _W.PREPOSITION: (
            "in on at by for from with into onto over under about after before between through without within"
            " against along across around behind beside beyond during inside near outside past since toward"
            " towards until upon below above beneath down off like per"
        ),
        _W.OF: "of than",
        _W.TO: "to",
        _W.CONJUNCTION: (
            "and or but nor if because while although though unless whereas once so yet when where"
        ),
        _W.RELATIVE: "that which who whom whose what how why",
        _W.AUXILIARY: (
            "is are was were be been being am has have had do does did will would can could shall should may"
            " might must i'm you're we're they're he's she's it's that's there's i've you've we've they've"
            " i'd you'd he'd she'd we'd they'd i'll you'll he'll she'll it'll we'll they'll who's what's"
        ),
        _W.NEGATION: (
            "not never don't doesn't didn't isn't aren't wasn't weren't won't wouldn't can't cannot "
            "couldn't shouldn't haven't hasn't hadn't"
        ),
        _W.PRONOUN: "i you he she we they it who there",
        _W.NOUN: "me him us them myself yourself himself herself itself themselves",
        _W.DEGREE: "very too quite rather so as more most less least almost only just even really",
        _W.TITLE: "mr mrs ms miss dr prof professor sir lady lord saint st captain king queen aunt uncle",
    },
    "es": {
        _W.DETERMINER: (
            "el la los las un una unos unas mi mis tu tus su sus nuestro nuestra nuestros nuestras este "
            "esta estos estas ese esa esos esas aquel aquella cada algún alguna ningún ninguna otro otra lo"
        ),
        _W.PREPOSITION: (
            "a ante bajo con contra desde durante en entre hacia hasta para por según sin sobre tras al"
        ),
        _W.OF: "de del",
        _W.CONJUNCTION: "y e o u pero sino ni si porque aunque cuando mientras donde pues como",
        _W.RELATIVE: "que quien quienes cual cuales cuyo cuya",
        _W.AUXILIARY: (
            "ha he has han hemos había habían es son era eran fue fueron está están estaba estaban "
            "ser estar puede pueden debe deben va van voy vamos"
        ),
        _W.NEGATION: "no nunca jamás tampoco",
        _W.PRONOUN: "yo tú él ella nosotros ellos ellas usted ustedes se me te le les nos os",
        _W.DEGREE: "muy más menos tan casi bastante demasiado",
        _W.TITLE: "señor señora don doña doctor doctora sr sra dr dra san santa",
    },
    "pt": {
        _W.DETERMINER: (
            "o a os as um uma uns umas meu minha meus minhas teu tua seu sua seus suas nosso nossa este esta"
            " estes estas esse essa esses essas aquele aquela cada algum alguma nenhum nenhuma outro outra"
        ),
        _W.PREPOSITION: (
            "ante após até com contra desde em entre para por perante sem sob sobre ao à aos às no na "
            "nos nas num numa pelo pela pelos pelas"
        ),
        _W.OF: "de do da dos das dum duma",
        _W.CONJUNCTION: "e ou mas nem se porque embora quando enquanto onde pois como",
        _W.RELATIVE: "que quem qual quais cujo cuja",
        _W.AUXILIARY: (
            "é são era eram foi foram está estão estava estavam ser estar tem têm tinha tinham vai vão "
            "pode podem deve devem há"
        ),
        _W.NEGATION: "não nunca jamais",
        _W.PRONOUN: "eu tu ele ela nós eles elas você vocês me te lhe lhes",
        _W.DEGREE: "muito mais menos tão quase bastante",
        _W.TITLE: "senhor senhora dom dona doutor doutora sr sra dr dra são santo santa",
    },
    "fr": {
        _W.DETERMINER: (
            "le la les un une des mon ma mes ton ta tes son sa ses notre nos votre vos leur leurs ce "
            "cet cette ces chaque quelque quelques aucun aucune autre"
        ),
        _W.PREPOSITION: (
            "à au aux avec chez contre dans depuis derrière devant durant en entre envers hors malgré "
            "par parmi pendant pour sans sauf selon sous sur vers"
        ),
        _W.OF: "de du d",
        _W.CONJUNCTION: "et ou mais ni car donc si parce lorsque puisque quand comme",
        _W.RELATIVE: "que qui dont où quel quelle quoi",
        _W.AUXILIARY: (
            "est sont était étaient a ont avait avaient ai as avons avez fut furent être avoir suis "
            "sommes êtes va vont peut peuvent doit doivent"
        ),
        _W.NEGATION: "ne pas plus jamais rien n",
        _W.PRONOUN: "je tu il elle on nous vous ils elles se me te lui y j c s l m t qu",
        _W.DEGREE: "très trop si plus moins assez presque",
        _W.TITLE: "monsieur madame mademoiselle docteur m mme mlle dr saint sainte",
    },
    "de": {
        _W.DEGREE: "sehr zu ganz so recht fast nur",
        _W.TITLE: "herr frau doktor dr prof professor sankt",
        _W.NEGATION: "nicht nie niemals",
    },
    "nl": {
        _W.DETERMINER: (
            "de het een mijn jouw uw zijn haar ons onze jullie hun deze dit die dat elke elk iedere ieder"
            " sommige enkele geen welke welk andere ander alle beide"
        ),
        _W.PREPOSITION: (
            "in op aan bij voor van met door uit over onder naar tegen tussen achter boven langs om rond"
            " sinds tijdens tot vanaf vanuit volgens wegens zonder binnen buiten naast per via ondanks"
        ),
        _W.OF: "dan",
        _W.CONJUNCTION: (
            "en of maar want dus omdat terwijl hoewel als wanneer indien zodat toen nadat voordat totdat"
            " tenzij"
        ),
        _W.RELATIVE: "wie wat waar hoe waarom waarmee waarin waarop",
        _W.AUXILIARY: (
            "is zijn was waren ben bent heb hebt heeft hebben had hadden word wordt worden werd werden zal"
            " zullen zou zouden kan kunnen kon konden moet moeten moest moesten mag mogen mocht wil willen"
            " wilde wilden"
        ),
        _W.PRONOUN: "ik jij je u hij zij ze wij we men er",
        _W.NOUN: "mij me jou hem haar hen zich zichzelf iets niets iemand niemand",
        _W.DEGREE: "zeer te heel zo erg bijna nogal vrij meer meest minder minst even slechts",
        _W.TITLE: "meneer mevrouw heer dokter dr prof professor sint",
        _W.NEGATION: "niet nooit",
    },
}
_LISTED = {
    language: {word: kind for kind, words in reversed(lists.items()) for word in words.split()}
    for language, lists in _LISTS.items()
}
_MODELS = {"en": "morphmodel_en.pgz", "de": "morphmodel_ger.pgz"}
# there is one for Dutch: it takes four seconds and 770 MB
_PARTICIPLE = re.compile(r"(?:be|ge|her|ont|ver)\w{2,}(?:en|d|t)")
# how a tag of the tagger begins, the longest first
_TAGS: dict[str, dict[str, WordClass]] = {
    "en": {
        "AT": _W.DETERMINER,
        "DPS": _W.DETERMINER,
        "DT": _W.DETERMINER,
        "PRF": _W.OF,
        "PRP": _W.PREPOSITION,
        "CJ": _W.CONJUNCTION,
        "VB": _W.AUXILIARY,
        "VH": _W.AUXILIARY,
        "VM": _W.AUXILIARY,
        "VD": _W.AUXILIARY,
        "VV": _W.VERB,
        "NN": _W.NOUN,
        "NP": _W.NAME,
        "AJ": _W.ADJECTIVE,
        "AV": _W.ADVERB,
        "CRD": _W.NUMBER,
        "ORD": _W.ADJECTIVE,
        "PN": _W.PRONOUN,
        "TO": _W.TO,
        "XX": _W.NEGATION,
    },
    "de": {
        "ART": _W.DETERMINER,
        "PPOSAT": _W.DETERMINER,
        "PDAT": _W.DETERMINER,
        "PIAT": _W.DETERMINER,
        "APPR": _W.PREPOSITION,
        "KO": _W.CONJUNCTION,
        "PREL": _W.RELATIVE,
        "VA": _W.AUXILIARY,
        "VM": _W.AUXILIARY,
        "VV": _W.VERB,
        "NN": _W.NOUN,
        "NE": _W.NAME,
        "ADJ": _W.ADJECTIVE,
        "ADV": _W.ADVERB,
        "CARD": _W.NUMBER,
        "PPER": _W.PRONOUN,
        "PTKZU": _W.TO,
        "PTKNEG": _W.NEGATION,
    },
}


@lru_cache(maxsize=2)
def _tagger(language: str) -> Any:
    """The trained tagger of a language, or nothing where its package is missing."""
    try:
        from HanTa.HanoverTagger import HanoverTagger  # late: a third of a second
    except ImportError:
        return None
    return HanoverTagger(_MODELS[language])


def load_classes(language: str) -> None:
    """Load what the classes of a language need, so that the first word does not wait for it."""
    class_of("word", language)


@lru_cache(maxsize=65536)
def class_of(word: str, language: str) -> WordClass:
    """The class of a word.

    Parameters
    ----------
    word : str
        With its punctuation.
    language : str
        BCP 47 tag; where nothing is known of it only figures are told.

    Examples
    --------
    >>> class_of("the", "en"), class_of("Grace,", "en"), class_of("de", "es")
    (<WordClass.DETERMINER: 1>, <WordClass.NAME: 12>, <WordClass.OF: 3>)
    """
    main = language.split("-")[0].lower()
    plain = word.strip("\"'“”‘’«»¿¡([{.,;:!?…)]}").replace("’", "'")
    listed = _LISTED.get(main, {}).get(plain.lower())
    if listed is not None:
        return listed
    if plain[:1].isdigit():
        return _W.NUMBER
    if main == "fr" and "'" in plain:  # l'eau, d'une: the word after the apostrophe counts
        return class_of(plain.rsplit("'", 1)[1], language)
    if main == "nl" and _PARTICIPLE.fullmatch(plain):
        return _W.VERB
    if main in _MODELS and plain and (tagger := _tagger(main)) is not None:
        return _tagged(tagger.tag_word(plain), _TAGS[main], plain)
    return _W.NAME if plain[:1].isupper() and plain[1:2].islower() else _W.OTHER


def _tagged(found: list[tuple[str, float]], tags: dict[str, WordClass], plain: str) -> WordClass:
    tag = found[0][0] if found else ""
    kind = next((kind for start, kind in tags.items() if tag.startswith(start)), _W.OTHER)
    if kind is _W.NAME and not plain[:1].isupper():
        return _W.NOUN
    return kind
