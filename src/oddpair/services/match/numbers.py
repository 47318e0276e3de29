"""Numbers of database rows."""

import numpy as np
import numpy.typing as npt

#: Ids of records, one per record number.
Numbers = npt.NDArray[np.int64]
