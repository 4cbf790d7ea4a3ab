"""What `equipped` says."""

from saldatura.battery.wording import figure


def has_cells_in_series(series: int, came_series: int) -> str:
    return f"It has {series} cells in series now and had {came_series}: only a charger for {series} nickel cells, or one that ends by −ΔV and is set to {series}. The charger it came with is dangerous: it overcharges the cells that are left."


def charge_it_only(series: int, full: float, came_series: int) -> str:
    return f"Charge it only with a charger for {series} in series, which ends at {figure(series * full, 1)} V. The charger it came with ends at {figure(came_series * full, 1)} V: that is dangerous, it overcharges the cells that are left and they may burn."
