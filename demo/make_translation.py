"""Give the demo podcast a Portuguese track: ``python demo/make_translation.py``.

The first half is approved. Two things are left to be looked at: a number that
became another one, and a sentence that lost its “not”.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from dubrel.base.text import word_units
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import approve, begin_track, translated_tracks
from dubrel.finding.encoder import vectors_of
from dubrel.model import Project, Term
from dubrel.store.projectfile import read_project, save
from dubrel.translation.choosing import missing_tasks
from dubrel.translation.cutting import Cut, cut_all

HERE = Path(__file__).parent
TERMS = (
    Term("Slow Water", keep=True, note="the name of the programme"),
    Term("Heron", keep=True, cased=True, note="the boat"),
    Term(
        "narrowboat",
        translations=(("pt", "barco estreito"),),
        forms=(("", "narrowboats"), ("pt", "barcos estreitos")),
        forbidden=(("pt", "barco apertado"),),
    ),
)
PORTUGUESE = (
    "Bem-vindos de volta a Slow Water.",
    "Esta semana estamos no estaleiro, onde o barco estreito Heron finalmente saiu do canal.",
    "Tobiah, o que você encontrou quando a água escoou?",
    "Carvalho, quase tudo, e quase tudo cansado.",
    "As tábuas do fundo na popa se foram, dá para enfiar o polegar nelas.",
    "As cavernas estão firmes, e o cadaste é o original.",
    "Eu queria dizer uma coisa sobre esse cadaste.",
    "Dezoito oitenta e um, e ele ainda soa quando se bate nele.",
    "Vamos ouvir.",
    "Isso não é bater de leve, Alasdair, isso é um malho.",
    "É um malho muito pequeno.",
    (
        "Para quem chegou agora, o Heron tem 70 pés de comprimento e nem 7 pés de largura, "
        "levou farinha e carvão por 60 anos, depois virou casa flutuante e depois foi esquecido."
    ),
    (
        "Esquecido é bondade, ele ficou nos juncos abaixo do velho moinho por doze invernos, e quando "
        "o esvaziamos havia uma família de patos na cabine, e eles não gostaram nada de nós."
    ),
    "O que acontece com as tábuas agora?",
    "Nós as tiramos uma de cada vez.",
    "Cada tábua nos mostra a forma da próxima.",
    "Se você arrancar todas de uma vez, o barco esquece como ele é.",
    "Sim,",
    (
        "então fazemos um molde de compensado fino, deixamos o carvalho novo no vapor uma hora por polegada, "
        "e aí temos uns três minutos para curvá-lo antes que endureça."
    ),
    "Três minutos,",
    "três minutos, com seis pessoas, as luvas e sem discussão.",
    "Isso é tudo, com um pouco de discussão.",
    "Ellis, você tem cuidado das contas.",
    "Quanto custou até agora?",
    "Quatro mil e duzentos pela madeira, novecentos pelo guindaste e quarenta de biscoitos.",
    "Os biscoitos não estavam no plano,",
    "e o que vem depois?",
    (
        "Calafetar: batemos algodão e alcatrão entre as tábuas com um martelo, para que ele inche e vede"
        " quando voltar para a água, é um trabalho lento, e o cheiro é maravilhoso."
    ),
    "Tem cheiro de pneu.",
    "Foi o que eu disse.",
    "Recebemos uma carta esta semana de uma ouvinte do norte.",
    "Ela pergunta se não seria mais barato construir um barco novo de aço.",
    "Claro que seria mais barato.",
    "Também seria mais barato olhar uma fotografia de um barco.",
    "A questão é que alguém tem de lembrar como se faz.",
    "Meu avô fazia isso no escuro.",
    "Eu preciso de um livro, de boa luz e de Tobiah gritando comigo.",
    "Eu grito.",
    (
        "Da próxima vez vamos acender a caixa de vapor e curvar a primeira tábua; se você quiser vir segurar"
        " um grampo, o portão abre no sábado a partir das dez, traga luvas"
    ),
    "e biscoitos.",
    "E biscoitos, este foi Slow Water, cuidado com a eclusa, e boa noite.",
)


def translated(project: Project) -> Project:
    """The project with the track, half of it approved."""
    project = replace(project, tracks=tuple(one for one in project.tracks if one.spoken), terms=TERMS)
    project, track_id = begin_track(project, "pt")
    track = project.track(track_id)
    assert track is not None
    tasks = missing_tasks(project, track)
    assert len(tasks) == len(PORTUGUESE), (len(tasks), len(PORTUGUESE))
    cuts = [
        Cut(task.said, tuple(word_units(text)), task.edges, "pt") for task, text in zip(tasks, PORTUGUESE)
    ]
    places = cut_all(cuts, vectors_of)
    found = [task.made(text, place) for task, text, place in zip(tasks, PORTUGUESE, places)]
    project = with_translations(project, track_id, found)
    [track] = translated_tracks(project)
    half = [one.id for one in track.captions[: len(track.captions) // 2] if "doze" not in one.text]
    return approve(project, track_id, half)


if __name__ == "__main__":
    path = HERE / "slow-water-7.dubrel"
    save(translated(read_project(path).project), path)
