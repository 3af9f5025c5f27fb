"""How often a prescribed translation stands in 200 sentences that nothing was fitted to.

The baseline is the same translator without the glossary's help.
"""

from __future__ import annotations

from itertools import product

from common import report

from dubrel.model import Term
from dubrel.translation.glossary import missing_in, spots_of
from dubrel.translation.preparing import translate_all
from dubrel.translation.translators.engines import translator

TERMS = {
    "oakum": "estopa",
    "keelson": "sobrequilha",
    "garboard": "tábua de resbordo",
    "steambox": "caixa de vapor",
    "sternpost": "cadaste",
    "bilge": "porão",
    "windlass": "molinete",
    "lock gate": "porta da eclusa",
    "narrowboat": "barco estreito",
    "caulking iron": "ferro de calafetar",
    "adze": "enxó",
    "scarf joint": "junta de bisel",
    "tiller": "cana do leme",
    "ballast": "lastro",
    "towpath": "caminho de sirga",
    "plank": "prancha",
    "rivet": "rebite",
    "tar": "alcatrão",
    "knee": "curva",
    "frame": "caverna",
}
SENTENCES = (
    "We packed the {} into the gap with a hammer.",
    "The {} was rotten, so we took it out and made a new one.",
    "Nobody in the village remembers who made the first {}.",
    "If you want to see the {}, come down to the yard on Saturday.",
    "Without a {} the boat would have been lost in the storm.",
    "It smells of {} and wet leaves down there.",
    "She asked him what the {} was for, and he laughed.",
    "Every {} has its own story, says my grandfather.",
    "They found an old {} under the floor of the church.",
    "Is that a {} or something else?",
)


def main() -> None:
    """Count terms that are honoured, with and without."""
    builtin = translator("builtin", "en", "pt")
    pairs = list(product(TERMS.items(), SENTENCES))
    honoured = {True: 0, False: 0}
    for helped in (True, False):
        for (term, wanted), sentence in pairs:
            known = (Term(term, translations=(("pt", wanted),)),)
            text = sentence.format(term)
            [made] = translate_all(builtin, [text], known if helped else (), "pt")
            honoured[helped] += not missing_in(spots_of(text, known, "pt"), made)
    report(
        "glossaryterms",
        sentences=len(pairs),
        honoured=honoured[True],
        without=honoured[False],
        ratio=honoured[True] / len(pairs),
    )


if __name__ == "__main__":
    main()
