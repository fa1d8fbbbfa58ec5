"""Long computations: the pipeline with the store behind it (`shelf`), what a plan's chain means for it (`folds`),
chores that need the store, and the worker processes that claim jobs from the durable table (`worker`, `crew`).
"""
