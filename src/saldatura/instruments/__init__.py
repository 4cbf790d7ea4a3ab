"""Meters, supplies, loads, chargers and thermometers: spoken to in SCPI, or stood in for by simulated packs."""
