"""Check cases: published and derived values, run against the core. One small adapter a kind; no formula of its own."""
