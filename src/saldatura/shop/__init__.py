"""What a shop has and has settled: cells, instruments, channels, policy, prices, reference parts."""
