"""The whole way for an order: ``unfolding`` files, then nest, cut and gather (``gather``)."""
