"""Words that say little by themselves, by language."""

from __future__ import annotations

from functools import lru_cache

_LISTS = {
    "en": (
        "a about after again all also am an and any are aren't as at back be because been before being but by"
        " can can't come could couldn't did didn't do does doesn't don't down each even every for from get go"
        " going gone good got had has have haven't he he's her here here's him his how i i'd i'll i'm i've if"
        " in into is isn't it it's its just kind know let let's like little look lot made make many may me"
        " mean might more most much must my never new no not now of off oh okay on once one only or other our"
        " out over own people quite really right said same say see she she's should so some something sort"
        " still such take tell than that that's the their them then there there's these they they're thing"
        " things think this those three through time to too two um uh under until up us very want was wasn't"
        " way we we'll we're we've well went were what what's when where which while who why will with won't"
        " would yeah year years yes yet you you'll you're you've your find first last long next nearly enough"
        " ask put keep asked around back both everybody anybody somebody"
    ),
    "de": (
        "aber alle als also am an auch auf aus bei bin bis da damit dann das dass dem den der des die dies"
        " diese doch dort du durch ein eine einem einen einer er es etwas euch für ganz gar gibt haben habe"
        " hat hatte hier ich ihm ihn ihr im in ist ja jetzt kann kein keine man mehr mein mit nach nicht noch"
        " nun nur ob oder ohne schon sehr sein sich sie sind so über um und uns unter vom von vor war waren"
        " was weil wenn wer wie wieder wir wird zu zum zur"
    ),
    "nl": (
        "aan al als bij dan dat de die dit doen door dus een en er ga gaan geen had heb hebben heeft het hier"
        " hij hoe ik in is ja je kan maar me meer met mij mijn naar niet nog nu of om ons ook op over te toch"
        " toen tot uit van veel voor waar waren was wat we wel werd wij zal ze zijn zo zou"
    ),
    "fr": (
        "à ai alors au aussi autre aux avec avoir bien c'est ce ces cette comme dans de des donc du elle en"
        " est et eux fait il ils j'ai je la le les leur lui mais me même mes moi mon ne nos notre nous on ont"
        " ou où par pas plus pour qu'il qu'on quand que qui sa sans se ses si son sont sur ta te tout très tu"
        " un une vous y à être"
    ),
    "es": (
        "a al algo así aunque aquí como con cuando de del desde donde dos el ella en entonces era eran es esa"
        " ese eso esta está estaba este esto fue había hay la las le les lo los más me mi muy no nos o para"
        " pero por porque pues que qué se ser si sí sin sobre son su sus también te tiene todo tu un una y"
        " ya yo"
    ),
    "pt": (
        "a ao aos aqui as até com como da das de dela dele depois do dos e é ela ele em então era essa esse"
        " está eu foi há isso isto já lá mais mas me meu muito na não nas nem no nos nós o os ou para pela"
        " pelo por porque quando que quem se ser seu só sua são também te tem tudo um uma você"
    ),
    "it": (
        "a ai al alla anche c'è che chi ci come con così da dal dei del della di dove e è era gli ha hanno ho"
        " i il in io la le lei lo loro lui ma me mi mia mio molto ne nel nella noi non o per perché più poi"
        " quando quello questa questo se sei si sia solo sono su sua suo tu tutto un una voi"
    ),
}


@lru_cache(maxsize=8)
def common_words(language: str) -> frozenset[str]:
    """The common words of a language (BCP 47 tag), small letters; none where there is no list."""
    text = _LISTS.get(language.split("-")[0].lower(), "")
    words = text.split()
    return frozenset(
        [*words, *(word.replace("'", "’") for word in words), *(word.replace("'", "") for word in words)]
    )
