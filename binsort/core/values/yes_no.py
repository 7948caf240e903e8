"""Words for yes and no."""

YES_NO = {**dict.fromkeys(("1", "true", "y", "yes"), True), **dict.fromkeys(("0", "false", "n", "no"), False)}
SHOWN = {**YES_NO, "shown": True, "hidden": False}  # of whether shoppers see a product
