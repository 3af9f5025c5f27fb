"""Words that join others (the closed classes), by language, and what each is to its neighbours.

Lists after the grammars of each language. Of a script that puts no spaces
between words they hold what units of such words begin or end with.
"""

from __future__ import annotations

from enum import IntEnum


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
    BOUND = 18
    ATTRIBUTE = 19


_W = WordClass
CLOSED_WORDS: dict[str, dict[WordClass, str]] = {
    "en": {
        _W.DETERMINER: (
            "a an the my your his her its our their this these those every each some any no another "
            "both either neither"
        ),
        _W.PREPOSITION: (
            "in on at by for from with into onto over under about after before between through without"
            " within"
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
            "is are was were be been being am has have had do does did will would can could shall should"
            " may"
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
            "o a os as um uma uns umas meu minha meus minhas teu tua seu sua seus suas nosso nossa este"
            " esta"
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
    "it": {
        _W.DETERMINER: (
            "il lo la i gli le l un uno una mio mia miei mie tuo tua suo sua suoi sue nostro nostra"
            " nostri nostre"
            " vostro vostra questo questa questi queste quel quello quella quei quegli quelle ogni qualche"
            " alcuni alcune nessun nessuno nessuna altro altra altri altre ciascuno ciascuna"
        ),
        _W.PREPOSITION: (
            "a ad al allo alla ai agli alle con da dal dallo dalla dai dagli dalle in nel nello nella nei"
            " negli nelle per su sul sullo sulla sui sugli sulle tra fra senza sotto sopra dopo prima"
            " durante verso contro fino presso dietro davanti accanto lungo attraverso secondo"
        ),
        _W.OF: "di del dello della dei degli delle d",
        _W.CONJUNCTION: (
            "e ed o od ma né se perché quando mentre come dove però poiché affinché finché appena"
        ),
        _W.RELATIVE: "che chi cui quale quali",
        _W.AUXILIARY: (
            "è sono era erano ho hai ha abbiamo avete hanno aveva avevano avevo sarà saranno fu furono sia"
            " può possono poteva deve devono doveva sta stanno stava essere avere vuole vogliono"
        ),
        _W.NEGATION: "non mai neanche nemmeno",
        _W.PRONOUN: "io tu lui lei noi voi loro mi ti ci vi si ne",
        _W.DEGREE: "molto più meno troppo così tanto quasi abbastanza proprio solo anche",
        _W.NUMBER: "due tre quattro cinque sei sette otto nove dieci venti trenta cento mille",
        _W.TITLE: "signor signora signorina dottor dottoressa professor sig dott san santa",
    },
    "pl": {
        _W.DETERMINER: (
            "ten ta to te ci tego tej tym tych mój moja moje mojego twój twoja jego jej ich nasz nasza"
            " nasze"
            " wasz swój swoja swoje swojego swojej każdy każda każde wszystkie wszyscy jakiś jakaś jakieś"
            " taki taka takie żaden żadna inny inna inne"
        ),
        _W.PREPOSITION: (
            "w we na z ze do od o u po za dla bez przy przez między przed pod nad około obok wśród przeciw"
            " oprócz podczas wokół według zamiast spod znad"
        ),
        _W.OF: "niż",
        _W.CONJUNCTION: (
            "i a ale lub albo oraz że żeby aby jeśli jeżeli gdy kiedy bo ponieważ chociaż choć jak więc"
        ),
        _W.RELATIVE: "który która które którzy którego której którym co kto gdzie dlaczego",
        _W.AUXILIARY: (
            "jest są był była było byli były będzie będą będę może mogą mogę można trzeba musi muszą ma"
            " mają"
            " został została zostało"
        ),
        _W.NEGATION: "nie ani nigdy",
        _W.PRONOUN: "ja ty on ona ono my wy oni one",
        _W.BOUND: "się",
        _W.DEGREE: "bardzo tak zbyt najbardziej bardziej mniej tylko już jeszcze nawet prawie",
        _W.NUMBER: "dwa dwie trzy cztery pięć sześć siedem osiem dziewięć dziesięć sto tysiąc",
        _W.TITLE: "pan pani państwo doktor profesor dr prof św",
    },
    "ru": {
        _W.DETERMINER: (
            "этот эта это эти этого этой этом этих тот та те того той мой моя моё мои твой твоя наш наша"
            " наше"
            " наши ваш ваша его её их свой своя своё свои своего своей своих каждый каждая каждое весь вся"
            " все всё какой какая какие такой такая такие другой другая другие один одна одно никакой"
        ),
        _W.PREPOSITION: (
            "в во на с со к ко о об обо от из у по за до для без при про через между перед под над около"
            " после возле вокруг среди против кроме ради сквозь из-за из-под вместо вдоль"
        ),
        _W.OF: "чем",
        _W.CONJUNCTION: "и а но или либо что чтобы если когда хотя потому как пока будто зато",
        _W.RELATIVE: "который которая которое которые которого которой которых кто чей где куда почему",
        _W.AUXILIARY: (
            "был была было были будет будут буду есть может могут могу надо нужно можно должен должна"
        ),
        _W.NEGATION: "не ни нет никогда",
        _W.PRONOUN: "я ты он она оно мы вы они",
        _W.BOUND: "бы же ли",
        _W.DEGREE: "очень самый самая самое более менее слишком так ещё уже лишь только даже почти",
        _W.NUMBER: "два две три четыре пять шесть семь восемь девять десять сто тысяча",
        _W.TITLE: "господин госпожа доктор профессор г-н г-жа д-р",
    },
    "he": {
        _W.DETERMINER: "כל איזה איזו אותו אותה אותם כמה הרבה מעט שום",
        _W.PREPOSITION: (
            "את על אל עם מן בין אחרי לפני תחת מול אצל בלי ללא עד כמו בתוך מתוך ליד לפי בגלל למען נגד דרך"
            " סביב מעל מתחת לאורך במשך בעד כלפי"
        ),
        _W.OF: "של",
        _W.CONJUNCTION: "או אבל כי אם גם אלא כאשר כש לכן אך ואם וגם",
        _W.RELATIVE: "אשר מה מי איך למה איפה מתי",
        _W.AUXILIARY: "היה הייתה היו יהיה תהיה יהיו יכול יכולה יכולים צריך צריכה אפשר חייב יש",
        _W.NEGATION: "לא אין אל בל מעולם",
        _W.PRONOUN: "אני אתה הוא היא אנחנו אתם הם הן",
        _W.BOUND: "מאוד הזה הזאת האלה ההוא ההיא",
        _W.DEGREE: "יותר הכי כך רק עוד כבר ממש כמעט",
        _W.TITLE: "מר גברת דר פרופ אדון",
    },
    "ar": {
        _W.DETERMINER: "هذا هذه ذلك تلك هؤلاء أولئك كل بعض أي جميع غير كلا كلتا نفس",
        _W.PREPOSITION: (
            "في من إلى على عن مع بين تحت فوق عند لدى منذ حتى خلال حول بعد قبل دون بدون أمام خلف وراء ضد نحو"
            " عبر داخل خارج قرب وفي ومن وإلى وعلى ومع بسبب"
        ),
        _W.CONJUNCTION: "و أو ثم لكن ولكن لأن إذا أن إن كي لكي بل أم بينما عندما حين كما لو وإذا وأن",
        _W.RELATIVE: "الذي التي الذين اللواتي ما ماذا كيف أين متى لماذا",
        _W.AUXILIARY: "كان كانت كانوا يكون تكون قد سوف لقد يمكن يجب ليس ليست",
        _W.NEGATION: "لا لم لن",
        _W.PRONOUN: "أنا أنت هو هي نحن هم أنتم هن",
        _W.DEGREE: "أكثر أقل جدا أشد فقط",
        _W.TITLE: "السيد السيدة الدكتور الدكتورة الأستاذ",
    },
    "ko": {
        _W.DETERMINER: (
            "이 그 저 새 헌 첫 옛 모든 각 어느 어떤 무슨 다른 여러 몇 한 두 세 네 온 전 이런 그런 저런 매"
        ),
        _W.CONJUNCTION: "그리고 그러나 하지만 그래서 또는 및 혹은",
        _W.NEGATION: "안 못",
        _W.DEGREE: "더 가장 아주 매우 너무 제일 좀 덜 훨씬",
        _W.BOUND: "때문에 등 대로 적 전에 위에 아래 안에 속에 옆에",
    },
    "th": {
        _W.PREPOSITION: "ใน บน จาก กับ แก่ โดย เพื่อ เมื่อ ของ ที่ ตั้งแต่ จนถึง ระหว่าง ใต้ ข้าง สู่ ด้วย",
        _W.CONJUNCTION: "และ หรือ แต่ เพราะ ถ้า ว่า จึง ซึ่ง อัน เพราะว่า",
        _W.AUXILIARY: "จะ กำลัง เคย ต้อง ควร อาจ คือ เป็น ได้ น่า",
        _W.NEGATION: "ไม่ อย่า",
        _W.DETERMINER: "ทุก บาง หลาย แต่ละ",
        _W.BOUND: "เกินไป มาก แล้ว อยู่ เลย นี้ นั้น โน้น ไหน นะ ครับ ค่ะ คะ กัน ด้วยกัน เสมอ จริงๆ",
    },
    "ja": {
        _W.DETERMINER: (
            "この その あの どの こんな そんな あんな どんな 大きな 小さな ある あらゆる いろんな わが"
        ),
        _W.CONJUNCTION: "そして しかし または だから でも それで それから",
        _W.DEGREE: "とても もっと 最も 一番 すごく かなり もう まだ ずっと",
        _W.BOUND: (
            "こと もの とき ため よう ところ はず わけ です ます でした ました いる いた います いました"
        ),
    },
    "zh": {
        _W.DETERMINER: (
            "这 那 这个 那个 这些 那些 每 每个 各 某 一个 一只 一条 一艘 这座 这条 這 這個 那個 這些"
            " 每個 一個"
        ),
        _W.PREPOSITION: "在 从 對 对 把 被 向 给 給 跟 為 为 从 從 由 于 於 以 用",
        _W.CONJUNCTION: "和 与 與 或 或者 但 但是 因为 因為 所以 如果 而 而且 虽然 雖然",
        _W.AUXILIARY: "是 会 會 能 可以 要 想 应该 應該 必须 必須 就 都 也 还 還 正在 已经 已經",
        _W.NEGATION: "不 没 没有 沒 沒有 别 別",
        _W.DEGREE: "很 非常 最 更 太 比较 比較 十分 特别 特別",
        _W.BOUND: "的 了 着 過 过 吗 嗎 呢 吧 里 裡 上 下 中 之后 之後 以后 以後 的时候 的時候",
    },
}
