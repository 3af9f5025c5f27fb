"""Texts in many languages that setting was not made for, and words that should be last in no line.

The lists are not those that setting uses: only what no editor would leave at the end of a line.
"""

UNSEEN = {
    "it": (
        "Quando sono arrivato alla stazione pioveva già da tre giorni e il fiume aveva superato il muro "
        "del giardino. La signora Bellini mi aspettava sotto la tettoia con un ombrello rosso e una "
        "lettera di suo nipote che viveva in Argentina. Mi ha detto che la casa era stata venduta a una "
        "coppia di medici di Torino, ma che nessuno aveva ancora trovato le chiavi della cantina. Abbiamo "
        "camminato lungo il canale fino al vecchio mulino, dove una volta si macinava il grano per tutta "
        "la valle. Da quella finestra si vede ancora il campanile della chiesa che è stata costruita dopo "
        "il terremoto. Non ho mai capito perché mio padre non volesse tornare in quel paese, e credo che "
        "ormai sia troppo tardi per chiederlo a qualcuno. La prossima settimana parleremo con un "
        "restauratore che lavora da più di vent'anni nelle barche dei pescatori."
    ),
    "es": (
        "La primera vez que entré en la biblioteca del puerto tenía nueve años y llevaba los zapatos "
        "mojados. El encargado era un hombre muy alto que hablaba con los libros como si fueran sus hijos. "
        "Me prestó una novela sobre un faro que se apaga en medio de una tormenta y nadie sabe por qué. "
        "Desde entonces he vuelto cada verano a la misma mesa que está junto a la ventana del patio. El "
        "año pasado el ayuntamiento anunció que el edificio se iba a convertir en un hotel de lujo para "
        "los turistas. Los vecinos salieron a la calle con carteles y con las llaves de la puerta "
        "principal en la mano. Al final el alcalde tuvo que reconocer que no había leído el informe de los "
        "arquitectos. Hoy vamos a escuchar la voz de una mujer que trabajó allí durante más de cuarenta "
        "años."
    ),
    "pt": (
        "O meu avô dizia que o vento do norte traz sempre notícias de alguém que já partiu. Na casa dele "
        "havia um relógio que não funcionava desde a morte da minha avó, e ninguém tinha coragem de o "
        "levar ao relojoeiro. Quando a barragem foi construída, a água cobriu a escola, a padaria e quase "
        "todas as vinhas da encosta. As pessoas mudaram-se para uma aldeia nova que ficava a mais de dez "
        "quilómetros do rio. Um pescador contou-me que, nos verões mais secos, ainda se vê a torre da "
        "igreja no meio da albufeira. Não era forte o suficiente para nadar até lá, mas fui num barco "
        "emprestado com a filha do carteiro. O sino continua no mesmo lugar e a corda está coberta de "
        "pequenas conchas. Para a semana vamos falar com os engenheiros que estudaram o projeto e com as "
        "famílias que nunca quiseram sair."
    ),
    "fr": (
        "Dans les années soixante-dix, mon oncle tenait une petite librairie au fond d'une cour que "
        "personne ne trouvait du premier coup. Il vendait surtout des cartes marines et des romans "
        "policiers dont il manquait toujours la dernière page. Le samedi, les enfants du quartier venaient "
        "lire par terre entre les cartons et le poêle. Un jour, une femme est entrée avec une valise "
        "pleine de lettres qu'elle ne voulait plus garder chez elle. Il a mis presque tout l'hiver à les "
        "classer, et il n'a jamais voulu nous dire ce qu'il y avait trouvé. Après sa mort, nous avons "
        "découvert que la plupart des enveloppes étaient encore fermées. Je me suis demandé s'il avait eu "
        "le droit de les lire, ou s'il attendait simplement que quelqu'un vienne les chercher. Nous en "
        "parlerons la semaine prochaine avec une archiviste qui travaille depuis vingt ans sur la "
        "correspondance des inconnus."
    ),
    "nl": (
        "Mijn tante had een winkel in oude fietsen aan de rand van het dorp, vlak bij de sluis. Elke "
        "ochtend zette zij de deuren open en wachtte ze tot de schipper van het veer zijn krant kwam "
        "halen. In de winter van negentienzevenenzestig bevroor het kanaal en reed de hele school op "
        "schaatsen naar de stad. Er is een foto waarop mijn vader met een stoel voor zich uit over het ijs "
        "loopt. Niemand wist dat het ijs bij de brug dun was, omdat daar het warme water van de fabriek in "
        "de vaart kwam. Een jongen uit de buurt heeft hem met een ladder en een touw uit het wak gehaald. "
        "Ze hebben daarna nooit meer met elkaar gesproken, maar op zijn verjaardag lag er altijd een brief "
        "op de mat. Volgende week praten we met de dochter van die jongen over het jaar dat alles anders "
        "werd."
    ),
    "de": (
        "Als ich das erste Mal mit dem Nachtzug nach Triest fuhr, hatte ich nur einen Koffer und die "
        "Adresse eines Mannes, den ich nicht kannte. Die Donaudampfschifffahrtsgesellschaft hatte ihm am "
        "14. März 1987 gekündigt, und seitdem reparierte er Uhren in einem Keller hinter dem Bahnhof. Er "
        "erzählte mir von den Jahren auf dem Fluss, von dem Nebel und von einer Frau, die in jedem Hafen "
        "auf ihn gewartet hatte. Auf dem Tisch lag ein Buch, in dem er jeden Abend die Temperatur und die "
        "Richtung des Windes notierte. Ich habe lange gebraucht, um zu verstehen, dass es ihm nicht um das "
        "Wetter ging. Im letzten Eintrag steht nur, dass die Glocke der kleinen Kapelle wieder zu hören "
        "ist. In der nächsten Folge sprechen wir mit der Enkelin des Mannes über das, was er ihr nie sagen "
        "wollte."
    ),
    "pl": (
        "Kiedy pierwszy raz przyjechałam do tego domu, padał śnieg i nikt nie odśnieżył drogi do bramy. "
        "Babcia siedziała przy piecu i czytała list, który przyszedł z opóźnieniem prawie czterdziestu "
        "lat. W kopercie było zdjęcie młodego mężczyzny na tle portu i jedno zdanie napisane ołówkiem. "
        "Przez całą zimę próbowałyśmy się dowiedzieć, kim był ten człowiek i dlaczego nigdy nie wrócił. W "
        "archiwum w Gdyni znalazłam spis załogi statku, na którym pracował jako pomocnik mechanika. "
        "Okazało się, że mieszkał potem na wyspie u wybrzeży Norwegii i że miał tam drugą rodzinę. Jego "
        "córka napisała do mnie po norwesku, więc musiałam poprosić o pomoc sąsiadkę ze studiów. Za "
        "tydzień opowiemy o tym, co stało się, gdy te dwie kobiety spotkały się po raz pierwszy."
    ),
    "ru": (
        "Когда я впервые приехал в этот город, снег лежал уже третью неделю и трамваи не ходили. Мой дед "
        "работал здесь на верфи и строил баржи для перевозки зерна по большой реке. После войны он привёз "
        "из командировки радиоприёмник, который ловил только одну станцию, и слушал его каждый вечер. "
        "Соседи приходили к нам с табуретками и садились вдоль стены, как в маленьком театре. Однажды "
        "диктор прочитал письмо от женщины из Архангельска, которая искала своего брата. Дед встал, "
        "выключил приёмник и больше никогда о нём не говорил. Только недавно я узнал, что он был тем самым "
        "братом и что она ждала ответа до конца жизни. На следующей неделе мы поговорим с историком, "
        "который собирает такие письма по всей стране."
    ),
    "he": (
        "כשהגעתי בפעם הראשונה אל הבית של סבתא, ירד גשם חזק והנחל עלה על גדותיו. היא ישבה ליד החלון עם מכתב "
        "ישן של אחיה, שנסע לארגנטינה לפני המלחמה. בתוך המעטפה היה תצלום של בחור צעיר על רקע הנמל ומשפט אחד "
        "בעיפרון. כל החורף ניסינו לברר מי היה האיש הזה ולמה הוא לא חזר אף פעם. בארכיון של העירייה מצאתי את "
        "רשימת הנוסעים של האונייה שבה הוא הפליג. התברר לנו שהוא גר שנים רבות בעיירה קטנה על שפת האגם ושהיו "
        "לו שם שתי בנות. אחת מהן כתבה אליי בספרדית, ולכן ביקשתי את עזרתה של שכנה מן הקומה השלישית. בשבוע "
        "הבא נספר על הפגישה של שתי הנשים ועל מה שהן מצאו בתוך המזוודה."
    ),
    "ar": (
        "عندما وصلت إلى هذه المدينة لأول مرة كان المطر يهطل منذ ثلاثة أيام والنهر قد تجاوز الجسر القديم. "
        "كانت جدتي تجلس قرب النافذة وفي يدها رسالة من أخيها الذي سافر إلى البرازيل قبل الحرب. في داخل "
        "المغلف صورة لشاب يقف أمام الميناء وجملة واحدة مكتوبة بقلم رصاص. طوال الشتاء حاولنا أن نعرف من هو "
        "هذا الرجل ولماذا لم يعد إلى بيته أبدا. وجدت في أرشيف البلدية قائمة بأسماء المسافرين على السفينة "
        "التي حملته إلى الجانب الآخر من المحيط. تبين لنا أنه عاش سنوات طويلة في قرية صغيرة على شاطئ "
        "البحيرة وأن له ابنتين هناك. كتبت لي إحداهما باللغة البرتغالية ولهذا طلبت المساعدة من جارة درست في "
        "لشبونة. في الأسبوع القادم سنتحدث عن اللقاء بين المرأتين وعن كل ما وجدتاه داخل الحقيبة."
    ),
    "ko": (
        "제가 처음 이 마을에 왔을 때는 사흘째 비가 내리고 강물이 옛 다리를 넘고 있었습니다. 할머니는 "
        "창가에 앉아 전쟁 전에 떠난 동생의 오래된 편지를 읽고 계셨습니다. 봉투 안에는 항구 앞에 서 있는 "
        "젊은 남자의 사진과 연필로 쓴 한 문장이 들어 있었습니다. 그 겨울 내내 우리는 그 사람이 누구인지 왜 "
        "돌아오지 않았는지 알아보려고 했습니다. 시청 기록실에서 저는 그가 탔던 배의 모든 승객 이름이 적힌 "
        "책을 찾을 수 있었습니다. 그는 호숫가의 작은 마을에서 아주 오랫동안 살았고 두 딸이 있었다고 "
        "합니다. 그중 한 사람이 저에게 편지를 보냈지만 저는 그 말을 읽을 수 없어서 이웃에게 도움을 "
        "청했습니다. 새 펌프가 어제 도착했기 때문에 다음 주에는 그 배를 다시 물에 띄울 수 있을 것입니다."
    ),
    "ja": (
        "初めてこの町に着いたとき、雨はもう三日も降り続いていて、川の水は古い橋を越えていました。祖母は窓の"
        "そばに座り、戦争の前に旅立った弟の手紙を読んでいました。封筒の中には港に立つ若い男の写真と、鉛筆で"
        "書かれた一つの文が入っていました。その冬の間ずっと、私たちはあの人がだれなのか、なぜ帰ってこなかっ"
        "たのかを調べました。市役所の記録の中に、彼が乗った船の名簿を見つけました。彼は湖のほとりの小さな村"
        "で長く暮らし、二人の娘がいたそうです。三月十四日に、その娘の一人から私のところに手紙が届きました。"
        "来週は二人の女性が初めて会ったときの話と、かばんの中にあったとても古い地図のことをお話しします。"
    ),
    "zh": (
        "我第一次来到这座小城的时候，雨已经下了三天，河水漫过了那座古老的石桥。外婆坐在窗边，手里拿着她弟弟"
        "在战争之前寄来的一封信。信封里有一张年轻人站在港口前面的照片，还有一句用铅笔写的话。整个冬天我们都"
        "在打听这个人是谁，为什么他再也没有回来。我在市政府的档案里找到了他乘坐的那艘船的旅客名单。原来他在"
        "湖边的一个小村庄里住了很多年，还有两个女儿。其中一个女儿在三月十四日给我写了一封很长的信，可是我看"
        "不懂她的语言。下个星期我们会谈谈这两位女士第一次见面的情形，以及她们在箱子里发现的那张非常旧的地图"
        "。"
    ),
    "th": (
        "ครั้งแรกที่ฉันมาถึงเมืองนี้ ฝนตกมาแล้วสามวันและน้ำในแม่น้ำก็ล้นสะพานเก่า "
        "ยายนั่งอยู่ข้างหน้าต่างและอ่านจดหมายของน้องชายที่เดินทางไปก่อนสงคราม "
        "ในซองมีรูปของชายหนุ่มที่ยืนอยู่หน้าท่าเรือและประโยคหนึ่งที่เขียนด้วยดินสอ "
        "ตลอดฤดูหนาวเราพยายามหาว่าเขาเป็นใครและทำไมเขาไม่กลับมา "
        "ฉันพบชื่อของเขาในรายชื่อผู้โดยสารของเรือที่เก็บไว้ในห้องสมุดของเทศบาล เขาอาศัยอยู่ในหมู่บ้านเล็กๆ "
        "ริมทะเลสาบและมีลูกสาวสองคน รถไฟมาสายเกินไปฉันจึงต้องรออยู่ที่สถานีจนถึงเช้า "
        "สัปดาห์หน้าเราจะคุยกันเรื่องแผนที่เก่ามากที่อยู่ในกระเป๋า"
    ),
}
OPEN = {
    "it": (
        "il lo la i gli le un una di del della dei a al alla da dal dalla in nel nella con per su sul tra "
        "e o ma che è era non mi si più questo quella ogni suo sua"
    ),
    "es": (
        "el la los las un una de del a al en con por para sin sobre y o pero que es está no se su sus muy más"
    ),
    "pt": (
        "o a os as um uma de do da dos das em no na nos nas com por para sem e ou mas que é não se seu ao "
        "à mais"
    ),
    "fr": (
        "le la les un une des de du à au aux en dans avec pour par sur sans et ou mais que qui est ne se "
        "son sa très"
    ),
    "nl": "de het een van in op aan met voor door uit over en of maar dat die is niet zijn haar zeer elke",
    "de": (
        "der die das den dem des ein eine einen einem von im in am mit für auf aus und oder aber dass ist "
        "nicht zu"
    ),
    "pl": "w we na z ze do od o u po dla bez przy przez i a ale lub że który jest nie jego jej ten bardzo",
    "ru": "в во на с со к о об от из у по за до для без при и а но или что который не его её этот",
    "he": "את של על אל עם מן בין אחרי או אבל כי אם לא אין כל",
    "ar": "في من إلى على عن مع بين أو ثم لكن أن إن لا لم لن هذا هذه الذي التي كل",
    "ko": "이 그 저 새 모든 첫 더 아주 매우 안 못 한 두 옛",
    "ja": "この その あの とても もっと",
    "zh": "这 那 这个 那个 在 从 把 和 是 不 很 非常 这座 那座 那艘 那张",
    "th": "ใน บน จาก กับ ของ ที่ และ หรือ แต่ ไม่ จะ",
}
BEGIN = {"th": "เกินไป มาก แล้ว อยู่", "ko": "수 것 것입니다 때문에"}
"""Words that should be the first of no line."""
