"""Tables, kinds, levels and samples; reading files. No Qt."""
