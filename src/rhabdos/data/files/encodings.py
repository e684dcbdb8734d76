"""The encoding of a text, told from its first bytes."""

import codecs
import os

from rhabdos.data.limits import ReadingError

_ENOUGH_TO_GUESS = 24  # odd bytes; from fewer a guess is no better than chance
_AS_GOOD = 0.05  # of the share of unlikely neighbours that makes one encoding worse than another
# Of so many bytes one may be a control letter, in what is a text.
_MOST_CONTROLS = 100
_LEAST_PLAIN = 4  # of so many bytes one at the most is odd, in a text that is hard to tell
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
    """Tell a text's encoding from its first bytes, and whether it had to be guessed.

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
        return named(_guessed_encoding(head, name)), True
    return "utf-8", False


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
    """That of the desktop's language, else the most usual one, unless the text speaks clearly
    against both."""
    import charset_normalizer  # only for the rare file that is not UTF-8

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
    signs = next((encoding for encoding in usual if _only_signs(head, encoding)), None)
    if signs is not None:  # which are of no language
        return signs
    best = charset_normalizer.from_bytes(head).best()
    if best is None:  # its words are of no language; most of its letters may be plain all the same
        if usual and odd < len(head) // _LEAST_PLAIN:
            return usual[0]
        raise _unreadable(name)
    for encoding in usual:
        alone = charset_normalizer.from_bytes(head, cp_isolation=[encoding]).best()
        as_good = alone is not None and alone.chaos <= best.chaos + _AS_GOOD
        if alone is not None and as_good and _same_script(alone.alphabets, best.alphabets):
            return encoding
    return best.encoding


def _only_signs(head: bytes, encoding: str) -> bool:
    """Whether all that is not ASCII are signs, such as of currencies, degrees and quotes, and no
    letters."""
    letters = {sign for sign in head.decode(encoding, errors="ignore") if ord(sign) > 127}
    return all(sign.isprintable() or sign == "\u00a0" for sign in letters) and not any(
        sign.isalpha() for sign in letters - set("µªº")
    )


def _unreadable(name: str) -> ReadingError:
    return ReadingError(
        f"{name} is not readable as text in any common encoding. Save it as CSV in UTF-8 and "
        "open that."
    )


def _same_script(one: list[str], other: list[str]) -> bool:
    """Whether two readings of a text are in one kind of letters, such as Latin ones."""
    foreign = ("Cyrillic", "Greek", "Hebrew", "Arabic", "CJK", "Hangul", "Hiragana", "Thai")
    return [w for w in foreign if any(w in name for name in one)] == [
        w for w in foreign if any(w in name for name in other)
    ]


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
