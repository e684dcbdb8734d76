"""The encoding of a text, told from its first bytes."""

import codecs
import os
import re
import unicodedata

from rhabdos.data.limits import ReadingError

_ENOUGH_TO_GUESS = 24  # odd bytes; from fewer a guess is no better than chance
_AS_GOOD = 0.05  # of the share of unlikely neighbours that makes one encoding worse than another
_ODD_WORD = re.compile(r"[A-Za-z]*[^\x00-\x7f][A-Za-z\u0080-\U0010ffff]*")
_JOINING = re.compile("[’–·]")  # signs between the parts of a word
_NEARLY_ALL, _MOST = (
    0.9,
    0.6,
)  # of the words that are not plain; some are codes, addresses and the like
_ENOUGH_LETTERS, _MOSTLY = 4, 0.7  # letters that are not ASCII, and their share in their words
_WRITTEN_TOGETHER = ("HIRAGANA", "KATAKANA", "KATAKANA-HIRAGANA")  # with signs of Chinese
_OTHER_SCRIPTS = ("cp1251", "cp1253")
_OTHERS = ("cp1255", "cp1256", "cp850", "mac_roman", "koi8_r", "cp866")
"""Encodings of more scripts, and of older computers, in the order in which they are common."""
# Of so many bytes one may be a control letter, in what is a text.
_MOST_CONTROLS = 100
_LEAST_PLAIN = 4  # of so many bytes one at the most is odd, in a text that is hard to tell
_DAMAGED = 10  # of so many letters that are not ASCII, one may be none in UTF-8
_USUAL = "cp1252"

# The code page that a desktop in each language used before UTF-8, where it is not the usual one.
_OF_LANGUAGES = {
    "cp1250": ("cs", "hr", "hu", "pl", "ro", "sk", "sl", "sq"),
    "cp1251": ("be", "bg", "mk", "ru", "sr", "uk"),
    "cp1253": ("el",),
    "cp1254": ("tr", "az"),
    "cp1255": ("he",),
    "cp1256": ("ar", "fa", "ur"),
    "cp1257": ("et", "lt", "lv"),
    "cp1258": ("vi",),
    "cp932": ("ja",),
    "cp936": ("zh",),
    "cp949": ("ko",),
}


def encoding_of(head: bytes, name: str) -> tuple[str, bool]:
    """Tell a text's encoding from its first bytes, and whether it had to be guessed; UTF-8 of which
    some bytes are none is guessed.

    Raises
    ------
    ReadingError
        The bytes are no text.
    """
    for mark, encoding in (
        (codecs.BOM_UTF8, "utf-8-sig"),
        (codecs.BOM_UTF32_LE, "utf-32"),
        (codecs.BOM_UTF32_BE, "utf-32"),
        (codecs.BOM_UTF16_LE, "utf-16"),
        (codecs.BOM_UTF16_BE, "utf-16"),
    ):
        if head.startswith(mark):
            return encoding, False
    if b"\x00" in head:
        wide = _wide(head)
        if wide is None:
            raise ReadingError(
                f"{name} is not a text file, whatever its name says: it holds NUL bytes. It may be "
                "damaged, or of a kind that Rhabdos does not read; save the data as CSV and open "
                "that."
            )
        return wide, True
    try:
        codecs.getincrementaldecoder("utf-8")().decode(head)
    except UnicodeDecodeError:
        return ("utf-8" if _nearly_utf8(head) else named(_guessed_encoding(head, name))), True
    return "utf-8", False


def _nearly_utf8(head: bytes) -> bool:
    """Whether all letters but few are UTF-8, as where a byte was damaged or files were joined."""
    text = head.decode("utf-8", errors="replace")
    odd = sum(ord(letter) > 127 for letter in text)
    return text.count("\ufffd") * _DAMAGED <= odd


def named(encoding: str) -> str:
    """An encoding by its registered name: windows-1252 for cp1252."""
    return encoding.replace("cp125", "windows-125") if encoding.startswith("cp125") else encoding


def _wide(head: bytes) -> str | None:
    """UTF-16 without a mark: every other byte of western text is none."""
    pairs = len(head) // 2
    for start, encoding in ((1, "utf-16-le"), (0, "utf-16-be")):
        if head[start::2].count(0) > 0.4 * pairs and head[1 - start :: 2].count(0) == 0:
            return encoding
    return None


def _guessed_encoding(head: bytes, name: str) -> str:
    """That of the desktop's language, the most usual one, or another one in which words look as
    people write them; else what their letters speak for."""
    control = sum(byte < 32 and byte not in b"\t\n\r\f" for byte in head)
    if control > len(head) // _MOST_CONTROLS:
        raise _unreadable(name)
    odd = sum(byte > 127 for byte in head)
    usual = [
        encoding
        for encoding in dict.fromkeys((_of_the_desktop(), _USUAL))
        if _decodes(head, encoding)
    ]
    if usual and odd < _ENOUGH_TO_GUESS:
        return usual[0]
    for encoding in (*usual, *_OTHER_SCRIPTS):
        if _as_people_write(head, encoding):
            return encoding
    for encoding in usual:
        if _as_people_write(head, encoding, _MOST):
            return encoding
    import charset_normalizer  # only for the rare file whose words are of none of these

    best = charset_normalizer.from_bytes(head).best()
    guessed = "" if best is None else str(best.encoding)
    for encoding in (*filter(None, [guessed]), *_OTHERS):
        if _as_people_write(head, encoding):
            return encoding
    for encoding in usual:
        alone = charset_normalizer.from_bytes(head, cp_isolation=[encoding]).best()
        if alone is not None and best is not None and alone.chaos <= best.chaos + _AS_GOOD:
            return encoding
    if guessed:
        return guessed
    if usual and odd < len(head) // _LEAST_PLAIN:  # most of its letters are plain all the same
        return usual[0]
    raise _unreadable(name)


def _as_people_write(head: bytes, encoding: str, share: float = _NEARLY_ALL) -> bool:
    """Whether such a share of the words that are not plain look as people write them: in letters
    of one script, with capitals at the beginning or throughout, and signs at the ends only."""
    try:
        whole = codecs.getincrementaldecoder(encoding)().decode(head)
    except UnicodeDecodeError:
        return False
    words = dict.fromkeys(_ODD_WORD.findall(re.sub("[µªº\u00a0]", " ", whole)))
    text = " ".join(words)
    letters = [letter for letter in text if letter.isalpha()]
    odd = sum(ord(letter) > 127 for letter in letters)
    if not odd:  # signs alone, such as of currencies and degrees, which are of no language
        return text.isprintable()
    scripts = {word: {_script(letter) for letter in word if letter.isalpha()} for word in words}
    # Where nearly all letters are odd, they are of another script.
    latin = set().union(*scripts.values()) == {"LATIN"}
    if latin and odd >= _ENOUGH_LETTERS and odd > _MOSTLY * len(letters):
        return False
    fitting = sum(len(of) < 2 and _well_formed(word) for word, of in scripts.items())
    return fitting >= share * len(words)


def _script(letter: str) -> str:
    script = unicodedata.name(letter, "").partition(" ")[0]
    return "CJK" if script in _WRITTEN_TOGETHER else script


def _well_formed(word: str) -> bool:
    """Whether capitals and signs of a word stand where people write them."""
    bare = word.strip("".join(sign for sign in word if not sign.isalpha()))
    parts = [part for part in _JOINING.split(bare) if part]
    cased = all(
        part.islower() or part.isupper() or part[1:].islower() or part.lower() == part.upper()
        for part in parts
    )
    return word.isprintable() and all(map(str.isalpha, parts)) and cased


def _unreadable(name: str) -> ReadingError:
    return ReadingError(
        f"{name} is not readable as text in any common encoding. Save it as CSV in UTF-8 and "
        "open that."
    )


def _of_the_desktop() -> str:
    """The code page of the desktop's language, as its settings say: the system may lack it."""
    settings = (os.environ.get(name, "") for name in ("LC_ALL", "LC_CTYPE", "LANG"))
    language = next((said for said in settings if said), "")[:2]
    return next((page for page, known in _OF_LANGUAGES.items() if language in known), _USUAL)


def _decodes(head: bytes, encoding: str) -> bool:
    """Whether the bytes are text in an encoding; its last letter may be cut."""
    try:
        codecs.getincrementaldecoder(encoding)().decode(head)
    except UnicodeDecodeError:
        return False
    return True
