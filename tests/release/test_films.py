"""Films with captions in them, of every kind of recording: times, sound, turning, colours.

What goes wrong half-way.
"""

import io
import json
import struct
from fractions import Fraction
from pathlib import Path

import av
import mutagen.id3
import mutagen.mp4
import numpy as np
import pytest
from conftest import DEMO
from PIL import Image

from dubrel.base.errors import MediaError
from dubrel.base.value import replace
from dubrel.captions.places import Place, box_of
from dubrel.cli import main
from dubrel.edits.captions.fixes import off_lettering
from dubrel.edits.captions.trackchecks import check_track
from dubrel.film.muxing import CaptionStream, mux, read_captions, read_chapters
from dubrel.film.order import FilmOrder
from dubrel.film.stamps import Shown
from dubrel.jobs.filming import make_film, part_of
from dubrel.jobs.pictures import looked_at
from dubrel.media.probe import probe
from dubrel.model import Look
from dubrel.project.tracks import with_track
from dubrel.release.films import one_at_a_time, order_of, still_of
from dubrel.release.kits import KITS, Item, Kit, kit_json, plan
from dubrel.release.readiness import not_ready
from dubrel.store.projectfile import read_project, save


@pytest.fixture(scope="module")
def podcast():
    return read_project(DEMO / "slow-water-7.dubrel").project


@pytest.fixture(scope="module")
def film_project():
    project = read_project(DEMO / "heron-film.dubrel").project
    return replace(project, media=probe(DEMO / "heron-film.mp4"))


def film(project, form, tmp_path, **options):
    [planned] = plan(project, Kit("Film", "{title}", (Item(form, options),)))
    list(make_film(order_of(planned, tmp_path)))
    return tmp_path / planned.name


def test_captions_stand_in_the_picture_where_they_are_wished_and_nowhere_else(film_project, tmp_path):
    made = film(film_project, "film", tmp_path, stretch="2000-7000")
    with av.open(str(made)) as new, av.open(str(DEMO / "heron-film.mp4")) as old:
        assert sorted(one.type for one in new.streams) == ["audio", "video"]
        ours = {round(f.time, 2): f.to_ndarray(format="gray") for f in new.decode(video=0)}
        assert abs(len(ours) - 125) <= 1
        theirs = {
            round(f.time - 2, 2): f.to_ndarray(format="gray") for f in old.decode(video=0) if 2 <= f.time < 7
        }
    start = film_project.captions.captions[0].start_ms / 1000 - 2

    def other(at):
        difference = np.abs(ours[at].astype(int) - theirs[at].astype(int)) > 40
        return difference[:250].sum(), difference[250:].sum()

    before, under = round(start - 0.4, 2), round(start + 0.4, 2)
    assert other(before) == (0, 0)
    assert other(under)[0] == 0 and other(under)[1] > 2000


def test_of_captions_over_each_other_the_last_that_came_is_shown():
    one, other = (
        Shown(a, b, (name,), Look(), Place()) for a, b, name in ((0, 900, "one"), (300, 500, "other"))
    )
    found = [(row.start_ms, row.end_ms, row.lines[0]) for row in one_at_a_time([other, one])]
    assert found == [(0, 300, "one"), (300, 500, "other"), (500, 900, "one")]


def test_the_preview_of_a_film_is_a_frame_with_its_first_caption(film_project, podcast):
    [planned] = plan(film_project, Kit("Film", "{title}", (Item("film", {"crop": "upright"}),)))
    with Image.open(io.BytesIO(still_of(planned))) as picture:
        assert picture.size == (202, 360)
    [planned] = plan(film_project, Kit("Film", "{title}", (Item("film"),)))
    with Image.open(io.BytesIO(still_of(planned))) as picture:
        below = np.asarray(picture.convert("L"))[290:340, 200:440]
    assert (below < 60).mean() > 0.2 and (below > 200).sum() > 600  # a dark box, light letters
    podcast = replace(podcast, media=replace(podcast.media, path=str(DEMO / podcast.media.name)))
    [planned] = plan(podcast, Kit("Film", "{title}", (Item("film-sound"),)))
    assert [one.lines[0] for one in order_of(planned, Path()).names[:2]] == ["Isolde", "Tobiah"]
    with Image.open(io.BytesIO(still_of(planned))) as picture:
        assert picture.size == (1280, 720)


def test_a_stretch_that_is_none_is_one_sentence(film_project, tmp_path):
    for wrong in ("7000-2000", "all", "1-1"):
        [planned] = plan(film_project, Kit("Film", "{title}", (Item("film", {"stretch": wrong}),)))
        with pytest.raises(MediaError, match="is not a passage"):
            order_of(planned, tmp_path)


def test_a_film_in_another_shape_and_as_tracks(film_project, tmp_path):
    made = film(film_project, "film", tmp_path, stretch="0-2000", crop="square")
    with av.open(str(made)) as new:
        assert (new.streams.video[0].width, new.streams.video[0].height) == (360, 360)
    for form in ("film-inside-mp4", "film-inside-mkv"):
        inside = film(film_project, form, tmp_path)
        [track] = read_captions(inside)
        assert track.language == "eng" and len(track.rows) == len(film_project.captions.captions)


def test_chapters_go_into_every_form_that_can_hold_them(tmp_path):
    chapters = [(0, 400, "One & two"), (400, 900, "Třetí")]
    wav = tmp_path / "tone.wav"
    for suffix, codec in ((".mp3", "libmp3lame"), (".m4a", "aac"), (".mkv", "aac")):
        source = tmp_path / f"tone{suffix}"
        with av.open(str(source), "w") as out:
            stream = out.add_stream(codec, rate=44_100)
            frame = av.AudioFrame.from_ndarray(np.zeros((1, 44_100), "float32"), "fltp", "mono")
            frame.rate = 44_100
            for packet in [*stream.encode(frame), *stream.encode(None)]:
                out.mux(packet)
        made = tmp_path / f"with{suffix}"
        mux(source, made, chapters=chapters)
        assert read_chapters(made) == ["One & two", "Třetí"]
    with pytest.raises(MediaError, match="cannot hold chapters"):
        mux(wav, tmp_path / "x.wav", chapters=chapters)


def test_a_recording_that_is_gone_keeps_films_back_and_no_texts(film_project, tmp_path):
    gone = replace(film_project, media=replace(film_project.media, path=str(tmp_path / "gone.mp4")))
    names = {one.form.id for one in plan(gone, KITS["Everything"])}
    assert "film" not in names and {"srt", "docx", "page"} <= names
    [planned] = plan(film_project, Kit("Film", "{title}", (Item("film"),)))
    with pytest.raises(MediaError, match="not where it was"):
        order_of(replace(planned, source=replace(planned.source, original=gone)), tmp_path)


def test_a_film_that_breaks_off_leaves_nothing_behind(film_project, tmp_path):
    [planned] = plan(film_project, Kit("Film", "{title}", (Item("film"),)))
    order = order_of(planned, tmp_path)
    steps = make_film(order)
    next(steps)
    next(steps)
    steps.close()
    assert list(tmp_path.iterdir()) == [] and not part_of(Path(order.target)).exists()
    with pytest.raises(MediaError):
        list(make_film(FilmOrder("burn", str(DEMO / "film.py"), str(tmp_path / "x.mp4"))))
    assert list(tmp_path.iterdir()) == []


def test_caption_tracks_of_several_languages_have_their_names(film_project, tmp_path):
    made = tmp_path / "two.mkv"
    streams = [
        CaptionStream("en", "English", ((0, 900, "Hi"),)),
        CaptionStream("pt", "Portuguese", ((0, 900, "Olá\nvocê"),)),
    ]
    mux(DEMO / "heron-film.mp4", made, streams)
    assert [(one.language, one.title, one.rows[0][2]) for one in read_captions(made)] == [
        ("eng", "English", "Hi"),
        ("por", "Portuguese", "Olá\nvocê"),
    ]


# -- recordings of every kind --------------------------------------------------------------------------------


def small_film(
    path, *, times=range(0, 2000, 40), sound="aac", sound_s=2, size=(160, 120), pixels="yuv420p", begins=0
):
    """A film with frames at any times (in milliseconds) and a tone."""
    with av.open(str(path), "w") as out:
        picture = out.add_stream("libx264", rate=25)
        picture.width, picture.height, picture.pix_fmt = *size, pixels
        picture.time_base = picture.codec_context.time_base = Fraction(1, 1000)
        track = out.add_stream(sound, rate=48_000)
        for at in times:
            frame = av.VideoFrame.from_ndarray(
                np.full((size[1], size[0], 3), at % 200, np.uint8), format="rgb24"
            )
            frame = frame.reformat(format=pixels)
            frame.pts, frame.time_base = at, Fraction(1, 1000)
            out.mux(picture.encode(frame))
        out.mux(picture.encode(None))
        resampler = av.AudioResampler(track.codec_context.format.name, "mono", 48_000)
        for at in range(0, int(sound_s * 48_000), 1024):
            tone = (np.sin(np.arange(at, at + 1024) / 20) * 8000).astype(np.int16)
            frame = av.AudioFrame.from_ndarray(tone[None], "s16", "mono")
            frame.rate, frame.pts, frame.time_base = 48_000, at + begins * 48, Fraction(1, 48_000)
            for one in resampler.resample(frame):
                out.mux(track.encode(one))
        out.mux(track.encode(None))
    return path


SHOWN = (Shown(400, 900, ("Hello",), Look(), Place()), Shown(1200, 99_000, ("beyond",), Look(), Place()))


def burned(source, **how):
    target = source.with_name("made.mp4")
    list(make_film(FilmOrder("burn", str(source), str(target), SHOWN, **how)))
    with av.open(str(target)) as made:
        times = [round(frame.time * 1000) for frame in made.decode(video=0)]
        tracks = [(one.codec_context.name, float(one.duration * one.time_base)) for one in made.streams.audio]
        picture = made.streams.video[0]
        return times, tracks, (picture.width, picture.height)


def test_frames_keep_their_own_times(tmp_path):
    times = np.cumsum(np.random.default_rng(2).integers(15, 90, 40)).tolist()
    found, _, _ = burned(small_film(tmp_path / "uneven.mkv", times=times))
    assert found == times
    late = [at + 1500 for at in range(0, 1000, 40)]
    found, tracks, _ = burned(small_film(tmp_path / "late.mkv", times=late))
    assert found == late and tracks[0][1] == pytest.approx(2, abs=0.1)
    found, tracks, _ = burned(tmp_path / "late.mkv", from_ms=1600, to_ms=2100)
    assert found == [20 + at for at in range(0, 480, 40)]


def test_sound_is_copied_where_players_know_it_and_encoded_where_they_do_not(tmp_path):
    for suffix, sound, wanted in (
        ("mp4", "aac", "aac"),
        ("mkv", "libopus", "opus"),
        ("mov", "pcm_s16le", "aac"),
    ):
        _, tracks, _ = burned(small_film(tmp_path / f"{sound}.{suffix}", sound=sound))
        assert [name for name, _ in tracks] == [wanted]
    times, tracks, _ = burned(small_film(tmp_path / "longer.mp4", sound_s=5))
    assert times[-1] == 1960 and tracks[0][1] == pytest.approx(5, abs=0.1)


def test_odd_sides_deep_colours_and_turned_pictures(tmp_path):
    assert burned(small_film(tmp_path / "odd.mkv", size=(161, 121), pixels="yuv444p"))[2] == (160, 120)
    assert burned(small_film(tmp_path / "deep.mkv", pixels="yuv420p10le"))[2] == (160, 120)
    data = bytearray(small_film(tmp_path / "flat.mp4").read_bytes())
    upright = struct.pack(">9i", 65536, 0, 0, 0, 65536, 0, 0, 0, 1 << 30)
    at = data.find(upright, data.find(b"tkhd"))
    data[at : at + 36] = struct.pack(">9i", 0, 65536, 0, -65536, 0, 0, 120 << 16, 0, 1 << 30)
    (tmp_path / "turned.mp4").write_bytes(data)
    assert burned(tmp_path / "turned.mp4")[2] == (120, 160)


def test_a_passage_beyond_the_end_is_one_sentence_and_leaves_nothing(tmp_path):
    source = small_film(tmp_path / "short.mp4")
    with pytest.raises(MediaError, match="The passage lies beyond the end of the film"):
        burned(source, from_ms=60_000, to_ms=70_000)
    assert list(tmp_path.iterdir()) == [source]


def cover(path):
    """A picture for a cover."""
    Image.new("RGB", (64, 64), (200, 30, 30)).save(path, "JPEG")
    return path.read_bytes()


@pytest.mark.parametrize("suffix", [".m4a", ".mp3"])
def test_sound_with_a_cover_gets_chapters_and_keeps_it(tmp_path, suffix):
    source, made = tmp_path / f"tone{suffix}", tmp_path / f"with{suffix}"
    with av.open(str(source), "w") as out:
        stream = out.add_stream("aac" if suffix == ".m4a" else "libmp3lame", rate=44_100)
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 88_200), "float32"), "fltp", "mono")
        frame.rate = 44_100
        for packet in [*stream.encode(frame), *stream.encode(None)]:
            out.mux(packet)
    picture = cover(tmp_path / "cover.jpg")
    if suffix == ".m4a":
        tags = mutagen.mp4.MP4(source)
        tags["covr"], tags["\xa9nam"] = [mutagen.mp4.MP4Cover(picture)], "Slow Water"
        tags.save()
    else:
        tags = mutagen.id3.ID3()
        tags.add(mutagen.id3.APIC(mime="image/jpeg", type=3, data=picture))
        tags.add(mutagen.id3.TIT2(text="Slow Water"))
        tags.save(source)
    mux(source, made, chapters=[(0, 1000, "One"), (1000, 2000, "Two")])
    assert read_chapters(made) == ["One", "Two"]
    if suffix == ".m4a":
        again = mutagen.mp4.MP4(made)
        assert bytes(again["covr"][0]) == picture and again["\xa9nam"] == ["Slow Water"]
    else:
        again = mutagen.id3.ID3(made)
        assert again.getall("APIC")[0].data == picture and str(again["TIT2"]) == "Slow Water"
    assert packets_of(source) == packets_of(made)


def packets_of(path):
    """How many packets of sound are in a file."""
    with av.open(str(path)) as film:
        return sum(1 for packet in film.demux(audio=0) if packet.size)


def test_tracks_that_were_there_stay_with_their_languages_and_titles(tmp_path):
    one, two = tmp_path / "one.mp4", tmp_path / "two.mp4"
    mux(DEMO / "heron-film.mp4", one, captions=[CaptionStream("th", "Thai", ((1000, 2000, "ไม้"),))])
    mux(one, two, captions=[CaptionStream("lt", "Lithuanian", ((1000, 2000, "Ąžuolas"),))])
    assert read_captions(two) == [
        CaptionStream("tha", "Thai", ((1000, 2000, "ไม้"),)),
        CaptionStream("lit", "Lithuanian", ((1000, 2000, "Ąžuolas"),)),
    ]


def frames_of(path):
    """The times of the frames of a film in milliseconds, counted from the first."""
    with av.open(str(path)) as found:
        times = [frame.time for frame in found.decode(video=0)]
    return [round((one - times[0]) * 1000) for one in times]


@pytest.mark.parametrize("suffix", [".mp4", ".mkv"])
@pytest.mark.parametrize("source", ["a.mkv", "a.mp4", "a.ts"])
def test_no_frame_and_no_sound_is_lost_on_the_way_into_another_file(tmp_path, source, suffix):
    one = small_film(tmp_path / source)
    made = tmp_path / f"made{suffix}"
    mux(one, made, captions=[CaptionStream("en", "English", ((200, 900, "Hello"),))])
    assert frames_of(made) == frames_of(one) == list(range(0, 2000, 40))
    assert packets_of(made) == packets_of(one)


def test_a_burned_film_keeps_the_sound_that_primes_its_decoder(tmp_path):
    source = small_film(tmp_path / "a.mp4")
    list(make_film(FilmOrder("burn", str(source), str(tmp_path / "made.mp4"), SHOWN)))
    assert packets_of(tmp_path / "made.mp4") == packets_of(source)


def test_a_file_that_begins_late_is_as_long_as_what_is_in_it_and_so_are_its_chapters(tmp_path):
    late = small_film(tmp_path / "late.mkv", times=range(3000, 5000, 40), begins=3000)
    media = probe(late)
    assert media.duration_ms == pytest.approx(2000, abs=60)
    made = tmp_path / "made.mkv"
    mux(late, made, chapters=[(0, 1000, "One"), (1000, media.duration_ms, "Two")])
    with av.open(str(made)) as found:
        length = float(found.duration) / 1e6
        assert [float(one["end"] * one["time_base"]) <= length + 0.06 for one in found.chapters()] == [
            True,
            True,
        ]


def grey_of(path):
    """The mean brightness of the first and the last frame of a film, as it is shown."""
    with av.open(str(path)) as found:
        frames = [frame.to_ndarray(format="rgb24").mean() for frame in found.decode(video=0)]
    return frames[0], frames[-1]


def test_a_film_of_full_range_is_burned_as_bright_as_it_is(tmp_path):
    full, limited = tmp_path / "full.mp4", tmp_path / "limited.mp4"
    for path, pixels in ((full, "yuvj420p"), (limited, "yuv420p")):
        small_film(path, times=[0, 40, 80, 120, 160, 199], pixels=pixels)
        list(make_film(FilmOrder("burn", str(path), str(path.with_suffix(".made.mp4")), ())))
        assert grey_of(path.with_suffix(".made.mp4")) == pytest.approx(grey_of(path), abs=2.5)
    assert grey_of(full) == pytest.approx(grey_of(limited), abs=2.5)


@pytest.fixture(scope="module")
def lettered(film_project):
    """The demo film with what stands in its picture."""
    *_, project = looked_at(film_project)
    return project


def covers_lettering(project):
    """The captions that cover a name in the picture."""
    found = check_track(project, project.captions)
    return [one for one, problems in found.items() if any(each.rule == "lettering" for each in problems)]


def test_captions_of_a_burned_film_keep_off_lettering_where_that_is_wished(lettered, tmp_path):
    [banner] = lettered.media.banners
    over = covers_lettering(lettered)
    assert len(over) == 2
    [as_set], [clear] = (
        plan(lettered, Kit("Film", "{title}", (Item("film", options),)))
        for options in ({}, {"lettering": "clear"})
    )
    rows = [order_of(one, tmp_path).shown for one in (as_set, clear)]
    times = [(one.start_ms, one.end_ms) for one in lettered.captions.captions if one.id in over]
    for row, wanted in zip(rows, (True, False)):
        moved = [one for one in row if (one.start_ms, one.end_ms) in times]
        assert [box_of(one.lines, one.place)[3] > banner.top for one in moved] == [wanted, wanted]
    others = [[one for one in row if (one.start_ms, one.end_ms) not in times] for row in rows]
    assert others[0] == others[1]


def test_a_caption_that_was_placed_by_hand_stays_where_it_is(lettered):
    over = covers_lettering(lettered)
    track = lettered.captions
    held = tuple(replace(one, held=("place",)) if one.id == over[0] else one for one in track.captions)
    moved = off_lettering(with_track(lettered, replace(track, captions=held)))
    assert covers_lettering(moved) == over[:1]


def test_the_command_line_says_of_a_film_what_the_window_says(film_project, lettered, tmp_path, capsys):
    path = tmp_path / "heron.dubrel"
    save(film_project, path)
    kit = tmp_path / "kit.json"
    kit.write_text(kit_json(Kit("Texts", "{title}", (Item("srt"),))))
    assert main(["release", str(path), "--kit", str(kit), "-o", str(tmp_path / "out"), "--json"]) == 0
    [said] = json.loads(capsys.readouterr().out)
    assert said["not_ready"] == [one.text for one in not_ready(lettered)]
    assert "2 captions to fix" in said["not_ready"]


def test_what_is_spoken_or_brought_forward_is_said_before_it_is_made():
    from dubrel.release.preview import preview_of

    project = read_project(DEMO / "slow-water-7.dubrel").project
    project = replace(project, media=replace(project.media, path=str(DEMO / "slow-water-7.opus")))
    kit = Kit(
        "Voices",
        items=(
            Item("forward-wav", {"amount": "75", "loudness": "-16"}),
            Item("spoken-mp3", {"track": "translations", "under": "20"}),
            Item("spoken-wav", {"under": "alone"}),
        ),
    )
    forward, spoken, alone = (preview_of(one).text for one in plan(project, kit))
    assert forward.startswith("The sound of the recording with its voice brought forward by 75 %.")
    assert forward.endswith(" At −16 LUFS, no peak over −1 dBTP.")
    assert spoken.startswith(
        "Portuguese, spoken over the recording, which is lowered by 20 dB meanwhile: 39 lines."
    )
    assert "0:03  Bem-vindos de volta a Slow Water." in spoken
    assert alone.startswith("English, spoken alone: 41 lines.")
