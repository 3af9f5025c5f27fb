"""Words get their times: by a model, by synthesis, by a script."""
