"""The table of distributions: one is a file here and a row below."""

from verdad_core.spreads.distribution import Distribution
from verdad_core.spreads.distributions.arcsine import ARCSINE
from verdad_core.spreads.distributions.bimodal import BIMODAL
from verdad_core.spreads.distributions.normal import NORMAL
from verdad_core.spreads.distributions.triangular import TRIANGULAR
from verdad_core.spreads.distributions.uniform import UNIFORM

DISTRIBUTIONS: dict[str, Distribution] = {each.key: each for each in (UNIFORM, NORMAL, TRIANGULAR, ARCSINE, BIMODAL)}
