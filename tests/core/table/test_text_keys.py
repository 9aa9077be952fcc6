"""Texts found among others are those a dictionary finds, however they are laid out."""

from __future__ import annotations

import random

import numpy as np
import pytest

from thoroughness import examples
from yardcut.core.table.text_keys import Fold, TextKeys, plain_of, text_hashes
from yardcut.core.table.vectors import CodedVector, Dictionary, part_of


def texts_of(chance: random.Random, count: int, size: int | None) -> list[str | None]:
    letters = "ab0é漢\0"

    def one() -> str:
        if size is not None:
            return "".join(chance.choice("ab01") for _ in range(size))
        return "".join(chance.choice(letters) for _ in range(chance.choice([0, 1, 3, 7, 8, 9, 16, 17, 600])))

    return [None if size is None and chance.random() < 0.1 else one() for _ in range(count)]


@pytest.mark.parametrize("seed", range(examples(180)))
def test_what_is_found_is_what_a_dictionary_finds(seed: int) -> None:
    chance = random.Random(seed)
    sizes = [None, 1, 7, 8, 9, 15, 16, 17, 24, 511, 512]
    keys = texts_of(chance, chance.randrange(0, 60), chance.choice(sizes))
    asked = [*texts_of(chance, chance.randrange(1, 80), chance.choice(sizes)), *chance.sample(keys, len(keys) // 2)]
    if chance.random() < 0.5:
        chance.shuffle(asked)
    index, codes = TextKeys.numbered(plain_of(keys))
    known: dict[str, int] = {}
    for text, code in zip(keys, codes.tolist(), strict=True):
        assert (code == -1) == (text is None)
        if text is not None:
            assert known.setdefault(text, code) == code
    assert len(index) == len(known) == len(set(known.values()))
    found = index.find(plain_of(asked)).tolist()
    assert found == [-1 if text is None else known.get(text, -1) for text in asked]


@pytest.mark.parametrize("size", [1, 7, 8, 9, 12, 16, 100, 512, 513])
def test_a_text_has_one_hash_among_texts_of_its_size_and_among_others(size: int) -> None:
    chance = random.Random(size)
    even = texts_of(chance, 50, size)
    alone = text_hashes(plain_of(even))
    mixed = text_hashes(plain_of([*even, "x", "longer than most of them" * 3]))
    assert (alone == mixed[:-2]).all()
    part = part_of(plain_of([*even, "x"]), 10, 40)
    assert (text_hashes(part) == alone[10:40]).all()  # type: ignore[arg-type]
    assert len(np.unique(alone)) == len(set(even))


@pytest.mark.parametrize("seed", range(examples(45)))
def test_texts_whose_hashes_fall_together_are_still_told_apart(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    from yardcut.core.table import text_keys

    monkeypatch.setattr(text_keys, "_mixed", lambda values: values & np.uint64(0xC000000000000003))
    chance = random.Random(seed)
    keys = texts_of(chance, 40, chance.choice([None, 4]))
    asked = [*keys, *texts_of(chance, 40, chance.choice([None, 4]))]
    index, codes = TextKeys.numbered(plain_of(keys))
    known = dict(zip(keys, codes.tolist(), strict=True))
    assert index.find(plain_of(asked)).tolist() == [-1 if text is None else known.get(text, -1) for text in asked]


@pytest.mark.parametrize("seed", range(examples(90)))
@pytest.mark.parametrize("fold", [None, str.casefold])
def test_rows_are_numbered_alike_by_their_words_and_by_their_texts(seed: int, fold: Fold | None) -> None:
    chance = random.Random(seed)
    words = ["oak", "Oak", "", "ü", "x" * 20, "never there"]
    codes = np.array([chance.randrange(-1, len(words) - 1) for _ in range(chance.choice([0, 1, 30]))], np.int64)
    texts = [None if code < 0 else words[code] for code in codes.tolist()]
    by_words, coded = TextKeys.numbered(CodedVector(codes, Dictionary(words)), fold)
    by_texts, plain = TextKeys.numbered(plain_of(texts), fold)
    assert len(by_words) == len(by_texts) == len({fold(text) if fold else text for text in texts if text is not None})
    assert coded.tolist() == plain.tolist()
    asked = plain_of(["OAK", "oak", "never there", None, "ü", ""])
    assert by_words.find(asked).tolist() == by_texts.find(asked).tolist()
