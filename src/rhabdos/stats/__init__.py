"""Binning, bin rules, heights, quantiles and summaries: arrays in, plain values out. No Qt."""
