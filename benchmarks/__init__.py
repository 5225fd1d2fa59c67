"""Speed, as ratios within one run: absolute times say more about the machine than about the change."""
