"""Test vectors of the rank by chance. They stand in docs/language.md and never change."""

VECTORS = [
    # seed, file, row, rank
    (0, 0, 0, 0x238275BC38FCBE91),
    (7, 0, 0, 0x9C01479161BC5D78),
    (7, 0, 1, 0x68BFFCD4B372EF48),
    (7, 1, 0, 0x7010C70C013E27EC),
    (7, 2, 123456789, 0xA7413599E23B9D0E),
    (9223372036854775807, 0, 1099511627776, 0x25EC9F766AA12970),
]
