"""Points that lie so close that they are one."""

from __future__ import annotations

import numpy as np

from volumen.geometry.affine import Floats
from volumen.geometry.curve import Ints
from volumen.geometry.engine import PathOpError

_FEW, _MOST_CLOSE = 3000, 5_000_000  # points, and pairs of them that lie within the tolerance


def clustered(points: Floats, tolerance: float) -> tuple[Ints, Floats]:
    """Labels of points that belong together, and one place for each label."""
    from scipy.sparse import coo_matrix  # here, as they take long to load
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    n, tree = len(points), cKDTree(points)
    if n > _FEW and tree.count_neighbors(tree, tolerance) > _MOST_CLOSE:
        raise PathOpError("the outlines are too small, or too much alike, to tell their areas apart")
    close = tree.query_pairs(tolerance, output_type="ndarray")
    graph = coo_matrix((np.ones(len(close)), (close[:, 0], close[:, 1])), shape=(n, n))
    count, label = connected_components(graph, directed=False)
    sums = np.stack([np.bincount(label, points[:, k], count) for k in (0, 1)], axis=1)
    return label.astype(np.int64), sums / np.bincount(label, minlength=count)[:, None]
