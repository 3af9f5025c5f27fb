"""How sound descriptions are worded: by language and house style."""

from __future__ import annotations

from dubrel.model import HouseStyle

_WORDS: dict[str, dict[str, str]] = {
    "de": {
        "laughter": "Gelächter",
        "crying": "Weinen",
        "singing": "Gesang",
        "whistling": "Pfeifen",
        "coughing": "Husten",
        "sneeze": "Niesen",
        "footsteps": "Schritte",
        "clapping": "Klatschen",
        "cheering": "Jubel",
        "applause": "Applaus",
        "crowd": "Stimmengewirr",
        "dog barking": "Hundegebell",
        "cat": "Katze",
        "birdsong": "Vogelgesang",
        "music": "Musik",
        "wind": "Wind",
        "thunder": "Donner",
        "water": "Wasser",
        "rain": "Regen",
        "steam": "Dampf",
        "fire": "Feuer",
        "door": "Tür",
        "knocking": "Klopfen",
    },
    "es": {
        "laughter": "risas",
        "crying": "llanto",
        "singing": "canto",
        "whistling": "silbido",
        "coughing": "tos",
        "sneeze": "estornudo",
        "footsteps": "pasos",
        "clapping": "palmas",
        "cheering": "vítores",
        "applause": "aplausos",
        "crowd": "murmullo",
        "dog barking": "ladridos",
        "cat": "gato",
        "birdsong": "canto de pájaros",
        "music": "música",
        "wind": "viento",
        "thunder": "trueno",
        "water": "agua",
        "rain": "lluvia",
        "steam": "vapor",
        "fire": "fuego",
        "door": "puerta",
        "knocking": "golpes",
    },
    "fr": {
        "laughter": "rires",
        "crying": "pleurs",
        "singing": "chant",
        "whistling": "sifflement",
        "coughing": "toux",
        "sneeze": "éternuement",
        "footsteps": "pas",
        "clapping": "mains qui claquent",
        "cheering": "acclamations",
        "applause": "applaudissements",
        "crowd": "brouhaha",
        "dog barking": "aboiements",
        "cat": "chat",
        "birdsong": "chant d’oiseaux",
        "music": "musique",
        "wind": "vent",
        "thunder": "tonnerre",
        "water": "eau",
        "rain": "pluie",
        "steam": "vapeur",
        "fire": "feu",
        "door": "porte",
        "knocking": "coups",
    },
    "pt": {
        "laughter": "risos",
        "crying": "choro",
        "singing": "canto",
        "whistling": "assobio",
        "coughing": "tosse",
        "sneeze": "espirro",
        "footsteps": "passos",
        "clapping": "palmas",
        "cheering": "vivas",
        "applause": "aplausos",
        "crowd": "burburinho",
        "dog barking": "latidos",
        "cat": "gato",
        "birdsong": "canto de pássaros",
        "music": "música",
        "wind": "vento",
        "thunder": "trovão",
        "water": "água",
        "rain": "chuva",
        "steam": "vapor",
        "fire": "fogo",
        "door": "porta",
        "knocking": "batidas",
    },
}


def sound_words(name: str, style: HouseStyle, language: str) -> str:
    """A sound description as the house style writes it.

    Examples
    --------
    >>> sound_words("music", HouseStyle("x"), "en")
    '[music]'
    >>> sound_words("music", HouseStyle("x", sound_case="upper"), "es")
    '[MÚSICA]'
    """
    text = _WORDS.get(language.split("-")[0], {}).get(name, name)
    if style.sound_case == "upper":
        text = text.upper()
    elif style.sound_case == "sentence":
        text = text[:1].upper() + text[1:]
    opening, closing = (style.sound_brackets[:1], style.sound_brackets[1:])
    return f"{opening}{text}{closing}"
