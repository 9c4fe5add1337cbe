#!/usr/bin/env python3
"""Builds the fonts that ship in data/fonts from Debian's fonts-manrope (SIL Open Font License 1.1).

Qt 6.4 cannot ask a font for its tabular figures, so the 'tnum' glyphs are made the default ones.
The licence asks nothing but that the result stays under it; the family gets a name of its own so
that it cannot be confused with the original.  Needs: fonts-manrope python3-fonttools.
"""
import pathlib
from fontTools.ttLib import TTFont

SOURCE = pathlib.Path("/usr/share/fonts/truetype/manrope")
TARGET = pathlib.Path(__file__).resolve().parent.parent / "data" / "fonts"
FAMILY = "Tuvvo Sans"

for weight in ("Regular", "Medium", "SemiBold", "Bold"):
    font = TTFont(SOURCE / f"Manrope-{weight}.ttf", recalcTimestamp=False)
    tabular = {}
    gsub = font["GSUB"].table
    for record in gsub.FeatureList.FeatureRecord:
        if record.FeatureTag == "tnum":
            for index in record.Feature.LookupListIndex:
                for table in gsub.LookupList.Lookup[index].SubTable:
                    tabular.update(getattr(table, "ExtSubTable", table).mapping)
    for table in font["cmap"].tables:
        for code, glyph in list(table.cmap.items()):
            if glyph in tabular and chr(code) in "0123456789":
                table.cmap[code] = tabular[glyph]
    names = font["name"]
    for record in list(names.names):
        if record.nameID in (1, 16):
            names.setName(FAMILY if record.nameID == 16 or weight in ("Regular", "Bold")
                          else f"{FAMILY} {weight}",
                          record.nameID, record.platformID, record.platEncID, record.langID)
        elif record.nameID == 4:
            names.setName(f"{FAMILY} {weight}", 4, record.platformID, record.platEncID, record.langID)
        elif record.nameID == 6:
            names.setName(f"TuvvoSans-{weight}", 6, record.platformID, record.platEncID, record.langID)
    font.save(TARGET / f"TuvvoSans-{weight}.ttf")
    print(weight, {font["hmtx"][font.getBestCmap()[ord(c)]][0] for c in "0123456789"})
