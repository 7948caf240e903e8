"""What Saltmarsh Chandlery sells: families of invented products, as data."""

from dataclasses import dataclass, field

BRANDS = {
    "rope": ("Hollin", "Tern & Gale", "Brackwater", "Orrin", "Skerry Lines", "Samphire"),
    "metal": ("Orrin", "Ironwrack", "Tarnby", "Gullfoot", "Fathom & Sons", "Cleave"),
    "paint": ("Brackwater", "Littoral", "Merle & Wren", "Saltmarsh"),
    "safety": ("Halcyon Watch", "Tern & Gale", "Petrel", "Northing"),
    "light": ("Lodestar", "Gloam", "Petrel", "Brackwater"),
    "house": ("Saltmarsh", "Dunlin", "Whin", "Tern & Gale"),
}

# Colour as most products write it, and the ways in which some do not.
COLOURS = {
    "Navy": ("3B5488", ("Navy", "Navy", "Navy", "Navy", "navy", "Navy blue")),
    "White": ("FFFFFF", ("White", "White", "White", "White", "white")),
    "Black": ("55585B", ("Black", "Black", "Black", "BLACK")),
    "Red": ("B3262B", ("Red",)),
    "Grey": ("8B9196", ("Grey", "Grey", "Grey", "Gray")),
    "Orange": ("EE6A1F", ("Orange",)),
    "Green": ("2C7A3F", ("Green", "Green", "Racing green")),
    "Yellow": ("E3B505", ("Yellow",)),
    "White/blue fleck": ("C9D6EA", ("White/blue fleck", "White/Blue Fleck")),
    "Galvanised": ("B9BDBD", ("Galvanised", "Galvanized")),
    "Silver": ("D5D8DA", ("Silver",)),
    "Cream": ("F3E9CF", ("Cream",)),
    "Oxblood": ("7A2A28", ("Oxblood",)),
    "Clear": ("F1DFAE", ("Clear",)),
}


@dataclass(frozen=True, slots=True)
class Family:
    """Products of one sort: every model in every size, each with variants by colour."""

    path: str
    noun: str
    picture: str
    brands: str
    models: tuple[str, ...]
    sizes: tuple[float, ...]
    size_words: str  # in the name, with {} for the size
    price: tuple[float, float]  # at size 0 and a size more
    colours: tuple[str, ...] = ()
    size_attribute: str = ""
    unit: str = ""
    load: float = 0  # breaking load in kN at size 1; grows with the square of the size
    facts: dict[str, tuple[object, ...]] = field(default_factory=dict)
    options: dict[str, tuple[str, ...]] = field(default_factory=dict)
    lengths: tuple[int, ...] = ()
    refit: float = 0.1  # share that is also in Spring refit


# A family a line.
# fmt: off
FAMILIES: tuple[Family, ...] = (
    Family("Rope and cordage > Running rigging > Halyards", "halyard", "coil", "rope", ("Braid-on-braid", "Racing", "Cruising", "Low-stretch"), (6, 8, 10, 12, 14), "{} mm", (8, 3.1), colours=("Navy", "White", "Black", "Red", "Grey", "White/blue fleck", "Green", "Orange"), size_attribute="Diameter", unit="mm", load=0.31, facts={"Material": ("Polyester", "HMPE", "HMPE"), "Construction": ("Double braid", "Double braid", "Single braid"), "Stretch": (1.2, 2.5, 3.8, 6)}, lengths=(20, 30, 40, 50)),
    Family("Rope and cordage > Running rigging > Sheets", "sheet", "hank", "rope", ("Double-braid", "Soft-hand", "Matt-cover"), (6, 8, 10, 12, 14, 16), "{} mm", (6, 2.6), colours=("Navy", "White", "Black", "Red", "Grey", "White/blue fleck", "Green", "Orange"), size_attribute="Diameter", unit="mm", load=0.27, facts={"Material": ("Polyester", "Polyester", "HMPE", "Nylon"), "Construction": ("Double braid", "8-plait", "3-strand", "Single braid"), "Stretch": (2.5, 3.8, 6, 9)}, lengths=(10, 12, 15, 20)),
    Family("Rope and cordage > Running rigging > Control lines", "control line", "hank", "rope", ("Lazy-jack", "Downhaul", "Purchase"), (4, 5, 6, 8), "{} mm", (4, 1.7), colours=("Navy", "White", "Black", "Red", "Grey", "White/blue fleck"), size_attribute="Diameter", unit="mm", load=0.3, facts={"Material": ("Polyester", "Polyester", "HMPE", "Nylon"), "Construction": ("Double braid", "8-plait", "3-strand", "Single braid")}, lengths=(8, 10, 12, 20)),
    Family("Rope and cordage > Mooring > Mooring lines", "mooring line", "coil", "rope", ("Harbour", "Spliced-eye", "Heavy-weather"), (10, 12, 14, 16, 20, 24), "{} mm", (12, 2.2), colours=("Navy", "White", "Black", "Red", "Grey"), size_attribute="Diameter", unit="mm", load=0.22, facts={"Material": ("Polyester", "Nylon", "Nylon", "Hemp"), "Construction": ("3-strand", "8-plait", "Double braid")}, lengths=(6, 8, 10, 15), refit=0.3),
    Family("Rope and cordage > Mooring > Warps", "anchor warp", "coil", "rope", ("Leaded", "Braided", "Three-strand"), (10, 12, 14, 16, 18), "{} mm", (20, 3), colours=("White", "Navy", "Black"), size_attribute="Diameter", unit="mm", load=0.21, facts={"Material": ("Nylon", "Nylon", "Polyester"), "Construction": ("3-strand", "8-plait")}, lengths=(20, 30, 50)),
    Family("Rope and cordage > Small cordage > Shock cord", "shock cord", "spool", "rope", ("Standard", "Marine-grade"), (3, 4, 5, 6, 8, 10), "{} mm", (2, 1.4), colours=("White", "Black", "Navy", "Red"), size_attribute="Diameter", unit="mm", load=0.05, facts={"Material": ("Polyester", "Nylon")}, lengths=(10, 25, 50)),
    Family("Rope and cordage > Small cordage > Whipping twine", "whipping twine", "spool", "rope", ("Waxed", "Plain"), (0.6, 0.8, 1, 1.5, 2), "{} mm", (3, 1.5), colours=("White", "Black", "Navy", "Green"), size_attribute="Diameter", unit="mm", load=0.4, facts={"Material": ("Polyester", "Nylon", "Hemp")}),
    Family("Anchors and mooring > Anchors", "anchor", "anchor", "metal", ("Plough", "Claw", "Folding", "Flat-fluke"), (2.5, 5, 7.5, 10, 16, 20), "{} kg", (18, 9), colours=("Galvanised", "Silver"), size_attribute="Weight", unit="kg", facts={"Material": ("Galvanised steel", "Galvanised steel", "Stainless A4")}, refit=0.2),
    Family("Anchors and mooring > Chain", "calibrated chain", "chain", "metal", ("Short-link", "Long-link"), (6, 7, 8, 10, 12), "{} mm, by the metre", (2, 1.3), colours=("Galvanised", "Silver"), size_attribute="Diameter", unit="mm", load=0.52, facts={"Material": ("Galvanised steel", "Stainless A4")}),
    Family("Anchors and mooring > Fenders > Cylinder fenders", "cylinder fender", "cylinder-fender", "house", ("Ribbed", "Smooth", "Heavy-duty"), (40, 50, 60, 75), "{} cm", (6, 0.45), colours=("Navy", "White", "Black", "Grey"), size_attribute="Length", unit="cm", facts={"Material": ("PVC",)}, refit=0.3),
    Family("Anchors and mooring > Fenders > Ball fenders", "ball fender", "ball-fender", "house", ("Round", "Marker"), (25, 35, 45, 60), "{} cm", (8, 0.8), colours=("Orange", "White", "Navy", "Red", "Yellow"), size_attribute="Diameter", unit="cm", facts={"Material": ("PVC",)}),
    Family("Anchors and mooring > Buoys", "mooring buoy", "buoy", "house", ("Pick-up", "Rigid", "Inflatable"), (25, 30, 40), "{} cm", (15, 1.1), colours=("Orange", "White", "Yellow"), size_attribute="Diameter", unit="cm", facts={"Material": ("PVC", "Polyethylene")}),
    Family("Deck hardware > Cleats", "horn cleat", "cleat", "metal", ("Two-hole", "Four-hole", "Folding", "Low-profile"), (100, 150, 200, 250, 300), "{} mm", (3, 0.09), colours=("Silver", "White", "Black"), size_attribute="Length", unit="mm", facts={"Material": ("Stainless A4", "Nylon", "Bronze", "Aluminium")}, refit=0.25),
    Family("Deck hardware > Shackles > Bow shackles", "bow shackle", "shackle", "metal", ("Forged", "Captive-pin", "Coated"), (5, 6, 8, 10, 12, 16), "{} mm", (2, 1.6), colours=("Silver", "Galvanised"), size_attribute="Diameter", unit="mm", load=0.36, facts={"Material": ("Stainless A4", "Galvanised steel")}),
    Family("Deck hardware > Shackles > D shackles", "D shackle", "shackle", "metal", ("Forged", "Long", "Twisted"), (4, 5, 6, 8, 10, 12), "{} mm", (1.5, 1.3), colours=("Silver", "Galvanised"), size_attribute="Diameter", unit="mm", load=0.4, facts={"Material": ("Stainless A4", "Galvanised steel", "Bronze")}),
    Family("Deck hardware > Shackles > Soft shackles", "soft shackle", "soft-shackle", "rope", ("Button-knot", "Covered"), (4, 5, 6, 8, 10), "{} mm", (6, 2.3), colours=("Navy", "Grey", "Red", "Black"), size_attribute="Diameter", unit="mm", load=0.9, facts={"Material": ("HMPE", "HMPE", "Aramid")}),
    Family("Deck hardware > Blocks", "block", "block", "metal", ("Swivel", "Single", "Double", "Cheek", "Snatch"), (30, 45, 57, 75), "{} mm", (9, 0.7), colours=("Black", "Silver"), size_attribute="Sheave", unit="mm", load=0.004, facts={"Material": ("Nylon", "Aluminium", "Stainless A4")}),
    Family("Deck hardware > Snap hooks", "snap hook", "snap-hook", "metal", ("Swivel", "Plain", "Safety"), (40, 60, 80, 100), "{} mm", (3, 0.12), colours=("Silver", "Black"), size_attribute="Length", unit="mm", load=0.0024, facts={"Material": ("Stainless A4", "Bronze", "Nylon")}),
    Family("Deck hardware > Winch handles", "winch handle", "winch-handle", "metal", ("Floating", "Locking", "Double-grip"), (200, 250), "{} mm", (22, 0.12), colours=("Black", "Red", "Navy"), size_attribute="Length", unit="mm", facts={"Material": ("Aluminium", "Nylon", "Bronze")}),
    Family("Deck hardware > Vents", "cowl vent", "vent", "house", ("Tall", "Low", "Folding"), (75, 100, 125), "{} mm", (9, 0.2), colours=("White", "Red", "Navy"), size_attribute="Diameter", unit="mm", facts={"Material": ("PVC", "Stainless A4")}),
    Family("Paint and varnish > Topside paint", "topside gloss", "tin", "paint", ("One-pot", "Two-pot", "Heritage"), (375, 750, 2500), "{} ml", (9, 0.021), colours=("Navy", "White", "Cream", "Red", "Green", "Oxblood", "Grey", "Black"), size_attribute="Volume", unit="ml", facts={"Finish": ("Gloss", "Gloss", "Satin")}, refit=0.6),
    Family("Paint and varnish > Deck paint", "deck paint", "tin", "paint", ("Non-slip", "Quick-dry"), (750, 1000, 2500), "{} ml", (11, 0.022), colours=("White", "Cream", "Grey", "Green"), size_attribute="Volume", unit="ml", facts={"Finish": ("Matt", "Satin")}, refit=0.6),
    Family("Paint and varnish > Antifouling", "antifouling", "tin", "paint", ("Hard", "Self-polishing", "Fresh-water"), (750, 2500, 5000), "{} ml", (18, 0.028), colours=("Navy", "Red", "Black", "Green", "White"), size_attribute="Volume", unit="ml", facts={"Finish": ("Matt",)}, refit=0.6),
    Family("Paint and varnish > Varnish", "spar varnish", "tin", "paint", ("Tung-oil", "Clear-coat", "Quick"), (250, 500, 1000, 2500), "{} ml", (8, 0.024), colours=("Clear",), size_attribute="Volume", unit="ml", facts={"Finish": ("Gloss", "Satin", "Matt")}, refit=0.5),
    Family("Paint and varnish > Brushes", "brush", "brush", "paint", ("Bristle", "Foam", "Badger"), (25, 38, 50, 75), "{} mm", (2, 0.12), colours=("Navy", "Red"), size_attribute="Width", unit="mm", facts={"Material": ("Bristle", "Foam")}, refit=0.4),
    Family("Safety > Lifejackets > Adult lifejackets", "lifejacket", "lifejacket", "safety", ("Coastal", "Offshore", "Slim", "Night-watch"), (100, 150, 165, 180, 275), "{} N", (40, 0.55), colours=("Navy", "Red", "Black"), size_attribute="Buoyancy", unit="N", facts={"Inflation": ("Automatic", "Manual", "Foam")}, options={"Size": ("S", "M", "L", "XL")}),
    Family("Safety > Lifejackets > Junior lifejackets", "junior lifejacket", "lifejacket", "safety", ("Dinghy", "Toddler"), (50, 100, 150), "{} N", (25, 0.35), colours=("Orange", "Red", "Yellow"), size_attribute="Buoyancy", unit="N", facts={"Inflation": ("Foam", "Automatic")}, options={"Size": ("XS", "S", "M")}),
    Family("Safety > Lifebuoys", "lifebuoy ring", "lifebuoy", "safety", ("Classic", "Horseshoe"), (50, 60, 75), "{} cm", (20, 0.5), colours=("White", "Orange", "Yellow"), size_attribute="Diameter", unit="cm", facts={"Material": ("PVC", "Polyethylene")}),
    Family("Safety > Torches", "torch", "torch", "light", ("Floating", "Head", "Search"), (1, 3, 5, 10), "{} W", (9, 2.4), colours=("Yellow", "Black", "Navy"), size_attribute="Power", unit="W", facts={"Material": ("ABS", "Aluminium")}),
    Family("Lighting > Navigation lights", "light", "light", "light", ("Stern", "Masthead", "Port bow", "Starboard bow", "All-round"), (12, 24), "{} V", (14, 1.4), colours=("White", "Black"), size_attribute="Voltage", unit="V", facts={"Lamp": ("LED", "LED", "Filament")}),
    Family("Lighting > Lanterns", "lantern", "lantern", "light", ("Anchor", "Gimballed", "Cockpit"), (12, 24), "{} V", (22, 1.2), colours=("White", "Green", "Red"), size_attribute="Voltage", unit="V", facts={"Lamp": ("LED", "Oil", "Filament")}),
    Family("Care and repair > Tape", "sail repair tape", "tape", "house", ("Self-adhesive", "Spinnaker", "Heavy"), (25, 50, 75, 100), "{} mm", (3, 0.11), colours=("White", "Navy", "Red", "Green"), size_attribute="Width", unit="mm", facts={"Material": ("Polyester", "Nylon")}, lengths=(3, 5, 10), refit=0.3),
    Family("Care and repair > Buckets", "bucket", "bucket", "house", ("Canvas", "Folding", "Rubber"), (6, 9, 12), "{} l", (9, 1.2), colours=("Navy", "Green", "Black"), size_attribute="Volume", unit="l", facts={"Material": ("Canvas", "PVC")}, refit=0.2),
    Family("Care and repair > Gloves", "deck gloves", "gloves", "house", ("Short-finger", "Long-finger", "Winter"), (1,), "pair", (12, 4), colours=("Navy", "Black", "Grey"), facts={"Material": ("Leather", "Aramid")}, options={"Size": ("S", "M", "L", "XL")}),
)
# fmt: on
