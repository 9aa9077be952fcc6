"""The words of the Harrowmere yard. No name here belongs to anybody."""

SPECIES = ("oak", "ash", "beech", "larch", "pine", "elm", "yew")
SPECIES_SHARES = (0.40, 0.20, 0.16, 0.12, 0.08, 0.0384, 0.0016)
DENSITY = {"oak": 690, "ash": 680, "beech": 710, "larch": 580, "pine": 510, "elm": 560, "yew": 670}
BASE_PRICE = {"oak": 920, "ash": 640, "beech": 560, "larch": 480, "pine": 330, "elm": 700, "yew": 1450}
GRADES = ("A", "B", "C", "D")
GRADE_SHARES = (0.22, 0.38, 0.28, 0.12)
INSPECTORS = ("Tolva", "Brannick", "Osterly", "Quill", "Marrowin", "Dassel")
LOWER_CASE_INSPECTORS = ("Quill", "Dassel")
"""Two graders who write a for A."""
SHIFTS = ("early", "late", "night")
ORIGINS = ("Upper Harrow", "Mere Bank", "Castlow Wood", "Tannet Hill", "Greyfold", "Nether Combe")
BUYERS = (
    "Pellow Joinery", "Arkwith & Daughters", "Hollin Boatyard", "Sundry Stairs", "Vesper Floors", "Old Ferry Barrels",
    "Tamsin Okoro", "Lindqvard Frames", "Bell & Mortise", "Wharf Nine", "Castlow Parish", "Ýmir Hús",
)  # fmt: skip
SIZES = ((27, 150), (32, 180), (41, 200), (52, 225), (65, 250), (80, 300))
BAY_AISLES = "NESW"
REMARKS = (
    "", "", "", "", "turned in the stack", "stickers renewed", "moved for the crane", "second look wanted",
    "ends waxed", "label faded", "held for the open day",
)  # fmt: skip
DEFECT_NOTES = (
    "end shake, two boards",
    'split at the butt, about 6" long',
    "blue stain along one edge; see also the pack below",
    'pith on the face, knots "as big as a fist"',
    "wane over the limit\nre-saw before sale",
    "insect holes, old and dry",
    "reserve for the boatyard",
    "marked [red] by the grader",
    "café table tops, naïve figure",
    "honeycombed, 乾燥割れ on the inner boards",
    "quarter-sawn, lovely figure 🌲",
    "the label reads \x1b[31mSTOP\x1b[0m in red",
    "resin pockets, [bold]do not plane[/bold]",
    "crook, bow and twist, all three",
)
PLAIN_DEFECT_NOTES = tuple(note for note in DEFECT_NOTES if all(ord(char) < 256 and char != "\x1b" for char in note))
"""Those that Windows-1252 can hold."""
LABEL_COLOURS = ("green", "white", "yellow", "blue")
MILL_NAMES = ("Harrow", "Mere", "Castlow", "Tannet", "Greyfold", "Combe", "Sallow", "Otter", "Fenwick", "Marl")
MILL_REGIONS = ("north bank", "south bank", "hill", "coast")
