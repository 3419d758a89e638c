"""The open file formats: plans, results, judge requests, probe logs."""
