"""``python -m kaigata.core.nest.warm``: build the compiled kernels on installation."""

from kaigata.core.nest.kernels import warm_up

if __name__ == "__main__":
    warm_up()
