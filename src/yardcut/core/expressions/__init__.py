"""Evaluating bound expressions over the rows of a part: values, comparisons, tests, conditions."""
