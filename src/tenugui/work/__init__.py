"""Long computations: what they are (`tasks`), and the worker processes that claim them from the durable job table (`worker`, `crew`)."""
