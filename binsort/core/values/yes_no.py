"""Words for yes and no."""

YES_NO = {**dict.fromkeys(("1", "shown", "true", "y", "yes"), True), **dict.fromkeys(("0", "false", "hidden", "n", "no"), False)}
