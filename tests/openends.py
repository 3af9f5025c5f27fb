"""Two texts that setting was not made for, the second never seen; words that should be last in no line."""

TEXT = """\
When I first saw the house it was raining, and the roof of the barn behind it had already fallen in.
My grandmother had lived there with the two dogs and a radio that only ever found one station. She
kept the letters in a biscuit tin on top of the wardrobe, tied with the ribbon from a hat she never
wore. I read them one by one at the kitchen table, and it took me the whole of that winter. There
was a man called Edwin Marlowe who wrote to her every week from the lighthouse at Corran Point. He
was the assistant keeper, and he was not allowed to leave the rock for more than a day at a time. In
the third letter he says that the lamp has been cleaned, that the oil is low, and that he dreams of
the smell of bread. You have to imagine what it was like to wait for the boat with nothing to do but
look at the water. Then, in the spring of nineteen thirty six, the letters stop without any
explanation at all. I asked everybody in the village who was old enough to remember, and nobody
would tell me a thing. The woman at the post office said that there are stories you should leave in
the tin where you found them. But I could not leave it alone, so I took the train to the coast and I
rented a room above the bakery. The baker's name was Doctor Helen Ashby, which surprised me, because
she had been a surgeon in the navy for twenty years. She told me that the keeper's logbook was in
the museum, and that the museum was open on Thursdays from ten until four. The logbook is a heavy
thing, bound in green cloth, with a stain across the cover in the shape of a hand. On the ninth of
April he wrote that the sea was calm and that a light had been seen to the west of the reef. After
that there is a page which somebody has cut out with a very sharp knife, and then a different
handwriting begins. It would have been easy to make up an ending, and for a while I thought about
doing just that. Instead I walked along the cliff to the place where the path bends and the wind
comes straight off the water. If you stand there at the end of the day you can see the lamp, which
is electric now, turn on all by itself. I think she must have stood in that very spot and counted
the seconds between one flash and the next. My mother says that I get it from her, this habit of
counting things that cannot be counted. The last letter in the tin was never opened, and I have
decided that I am not going to open it either. It is addressed to her in his hand, with a stamp that
is older than the date on the postmark. Some of the people who listen to this programme have written
to ask me what I think it says. I have no idea, and I would like to keep it that way for as long as
I possibly can. What I do know is that a person can be loved by somebody who is standing a long way
off in the dark. Next week we are going to talk to a clockmaker from Leeds about the most expensive
mistake of his career. Until then, look after each other, and if there is a tin on top of your
wardrobe, be careful with it. This was recorded by the harbour wall in the rain, and the bell you
can hear is from the ferry to the islands.
"""
UNSEEN = """\
Good evening, and thank you for joining us for the second part of our series about rivers. The Wend
rises in a field behind a petrol station, which is not how anybody imagines the source of a river.
For the first mile it runs under a road, then under a car park, and then beside the fence of a
school. The children there have measured it every week since the flood of two thousand and seven,
and they are better at it than the agency is. Mrs Okafor, who teaches science, showed me the graph
that hangs in the corridor. It looks like the back of a sleeping animal, with a spine that gets
higher as the years go by. What worries her is not the height of the peaks but how quickly they
come. A storm that would have taken two days to reach the bridge now takes less than nine hours.
Part of the reason is the new estate on the hill, where the water has nowhere to go but down.
Another part is the drain that the council put in without telling the people who live below it. I
spoke to a farmer called Gareth Pugh, who has lost three of his four fields to the mud. He says that
he does not blame the river, because a river is only ever doing what it is told. On the other side
of the valley there is a group of volunteers who build dams out of sticks. They learned it from
beavers, or rather from a retired engineer who had spent ten years watching beavers in Bavaria. A
dam of this kind costs about eighty pounds and it can be finished in an afternoon by six people and
a dog. When the next flood came, the water stood behind the sticks for long enough to let the
village sleep. I am not going to tell you that this is the answer to everything. But it has been
shown to work in places where the concrete has failed, and it is something that people can do with
their own hands. In the last part of the programme we will be following the Wend down to the sea. We
will meet a woman who collects the things that the river leaves behind when it goes back to its bed.
She has a shelf of shoes, none of which match, and a piano that she found in the branches of a
willow. If you would like to send us a picture of your own river, the address is on the website. And
if you live near the water, please check the warnings before you go to bed tonight.
"""
OPEN = frozenset(
    "a an the my your his her its our their of to in on at by for from with into onto over under "
    "about after before between through without against along across and or but nor if because while "
    "although that which who whose is are was were be been am has have had do does did will would can "
    "could should may might must not very so as than this these those every each no some any dr "
    "doctor mr mrs "
    "".split()
)


def open_ends(lines):
    """Those of some lines that end with such a word, and no sign behind it."""
    return [line for line in lines if line.split()[-1].lower() in OPEN]
