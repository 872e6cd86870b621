"""What performance figures come from: one module a bench, each with ratios in one run."""
