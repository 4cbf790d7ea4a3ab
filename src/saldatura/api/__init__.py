"""HTTP: thin routers that translate a request to a call and back, and decide nothing."""

import warnings

from pydantic.warnings import UnsupportedFieldAttributeWarning

# The framework names each body by an alias, which a model that is built later takes for a mistake; it is none.
warnings.filterwarnings("ignore", category=UnsupportedFieldAttributeWarning, module="pydantic")
