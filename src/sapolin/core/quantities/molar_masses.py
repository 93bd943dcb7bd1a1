"""Molar masses, g/mol, from standard atomic weights (CIAAW), and the ratios that follow from them."""

__all__ = ["GLYCEROL_G_PER_MOL", "KOH_G_PER_MOL", "NAOH_G_PER_MOL", "NAOH_PER_KOH", "WATER_G_PER_MOL"]

KOH_G_PER_MOL = 56.1056
NAOH_G_PER_MOL = 39.997
NAOH_PER_KOH = NAOH_G_PER_MOL / KOH_G_PER_MOL
"""Grams of NaOH that do the work of one gram of KOH: 0.71289."""
WATER_G_PER_MOL = 18.015
GLYCEROL_G_PER_MOL = 92.094
