"""Terms found where they were misheard, and chapter borders found in talks put together from known parts."""

from __future__ import annotations

import json

import numpy as np
from common import DEMO, report

from dubrel.edits.intake import set_turns
from dubrel.finding.encoder import vectors_of
from dubrel.finding.spelling import Spelling
from dubrel.finding.termspots import term_spots
from dubrel.finding.topics import chapters
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Term
from dubrel.project.sentences import sentences_of

# a name, and two ways in which a recogniser may write it
NAMES = {
    "Morwenna": ("more when a", "moor wenna"),
    "Isolde": ("is old", "a solder"),
    "Tobiah": ("to buy a", "tobias"),
    "Heron": ("hair in", "herron"),
    "Penhallow": ("pen hollow", "ten hallow"),
    "Trevanion": ("trevenian", "travanyan"),
    "Lanyon": ("lan yon", "land yon"),
    "Kerensa": ("current sir", "kerenza"),
    "Jory": ("jaw ree", "jorey"),
    "Zennor": ("zenner", "sennor"),
    "Polruan": ("paul ruin", "pol ruan"),
    "Gwithian": ("with yan", "gwithyan"),
    "Cadgwith": ("cad with", "cadge with"),
    "Boscastle": ("boss castle", "bos cassel"),
    "Mevagissey": ("mever gissy", "meva gissey"),
    "Tresco": ("tress co", "tresko"),
    "Bryher": ("briar", "bryer"),
    "Samson": ("sampson", "sam sun"),
    "Annet": ("a net", "annette"),
    "Crowan": ("crow an", "crowen"),
    "Lelant": ("le lant", "leland"),
    "Ludgvan": ("ludge van", "ludjan"),
    "Madron": ("mad run", "maddron"),
    "Nancledra": ("nan cledra", "nankledra"),
    "Porthleven": ("port leaven", "porth leven"),
    "Sithney": ("sith knee", "sidney"),
    "Wendron": ("wend run", "wendrun"),
    "Yarrell": ("yarel", "yarrow"),
    "Quethiock": ("kwethick", "quithock"),
    "Fowey": ("foy", "fowy"),
}

PARTS = {
    "bread": (
        "We bake the bread slowly here. Flour and water make a good dough. The oven must be very hot. You"
        " knead the dough for ten minutes. The crust turns brown at last. Yeast makes the loaf rise. Rye"
        " flour tastes of earth. A sourdough needs patience. The baker gets up at three. Salt goes in at the"
        " end."
    ),
    "sailing": (
        "The boat left the harbour at dawn. Two sailors pulled the ropes. The hull was painted blue. High"
        " waves hit the bow. We tied the boat to the quay. The sails were torn by the storm. The anchor held"
        " in the mud. The tide carried us out. Our skipper read the chart. The mast creaked all night."
    ),
    "tax": (
        "The tax office sent a letter. We paid the invoice late. The accountant checked our books. Every"
        " receipt must be kept. The bank charged us interest. The budget was far too small. A loan had to be"
        " taken. The auditor asked for the figures. Wages are due on Friday. The insurance covers the loss."
    ),
    "music": (
        "The violin was tuned before the concert. She sang the second verse alone. The choir practised every"
        " evening. The drummer lost the beat. A melody came back to me. The orchestra waited for the"
        " conductor. He wrote the song in one night. The piano needs a new string. The audience clapped for"
        " minutes. That chord sounds sad."
    ),
    "garden": (
        "The tomatoes need water every day. Roses want to be pruned in March. Snails ate the lettuce. We dug"
        " the beds in autumn. The compost is warm inside. Beans climb up the poles. The lawn has turned"
        " yellow. Bees come to the lavender. Frost killed the young plants. The greenhouse smells of earth."
    ),
    "medicine": (
        "The doctor listened to my heart. The nurse took some blood. The fever fell after two days. This pill"
        " is taken at night. The surgeon operated for hours. The wound has healed well. Her pulse was too"
        " fast. The clinic is full of patients. The vaccine protects the child. He broke his arm on the ice."
    ),
}


def terms() -> None:
    """Thirty names, each misheard in two ways, in the demo's own speech around them."""
    value = json.loads((DEMO / "slow-water-7.truth.json").read_text())
    stock = [text for turn in value["turns"] for text, _, _ in turn["words"]]
    stock = [one for one in stock if one.strip(".,?!’'") not in NAMES]
    chance = np.random.default_rng(3)
    words, planted, at = [], set(), 0
    for name, ways in NAMES.items():
        for way in ways:
            start = int(chance.integers(len(stock) - 30))
            for text in stock[start : start + 25]:
                words.append(RecognisedWord(text, at, at + 250))
                at += 280
            first = len(words)
            for text in way.split():
                words.append(RecognisedWord(text, at, at + 250, 0.3 * float(chance.random())))
                at += 280
            planted.add((first, len(words), name))
    turns = [RecognisedTurn(tuple(words[k : k + 60]), None) for k in range(0, len(words), 60)]
    project = set_turns(Project(), turns, [], "en")
    places = {w.id: k for k, w in enumerate(w for t in project.transcript.turns for w in t.words)}
    spots = term_spots(project, [Term(name) for name in NAMES], is_word=Spelling("en").knows)
    right = 0
    found = set()
    for spot in spots:
        first, last = places[spot.words[0].id], places[spot.words[-1].id] + 1
        hit = next(
            (one for one in planted if first < one[1] and one[0] < last and one[2] in spot.becomes), None
        )
        right += hit is not None
        found.add(hit)
    found.discard(None)
    report(
        "terms",
        found=len(found) / len(planted),
        limit=0.8,
        wrong=1 - right / max(1, len(spots)),
        wrong_limit=0.2,
        proposals=len(spots),
        places=len(planted),
    )


def borders() -> None:
    """Talks of four to six parts in any order, eight sentences of each, two or three a paragraph."""
    chance = np.random.default_rng(6)
    near = total = 0
    for _ in range(20):
        names = list(chance.permutation(list(PARTS)))[: int(chance.integers(4, 7))]
        turns, at, begins = [], 0, []
        for name in names:
            said = [f"{one.strip()}." for one in PARTS[name].rstrip(".").split(". ")]
            said = [said[k] for k in chance.permutation(len(said))[:8]]
            begins.append(len(turns))
            while said:
                take = int(chance.integers(2, 4))
                words = []
                for text in " ".join(said[:take]).split():
                    words.append(RecognisedWord(text, at, at + 300))
                    at += 320
                at += 700
                said = said[take:]
                turns.append(RecognisedTurn(tuple(words), f"s{len(turns) % 2}"))
        project = set_turns(Project(), turns, [], "en")
        sentences = sentences_of(project)
        made = chapters(sentences, vectors_of([one.text for one in sentences]), len(names), "en")
        place = {turn.id: k for k, turn in enumerate(project.transcript.turns)}
        ours = [place[sentences[one.first].turn] for one in made[1:]]
        near += sum(any(abs(a - b) <= 1 for a in ours) for b in begins[1:])
        total += len(begins) - 1
    report("chapters", within_one_paragraph=near / total, limit=0.8, borders=total)


if __name__ == "__main__":
    terms()
    borders()
