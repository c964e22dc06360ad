"""What a person can do to a design. Each act is one transaction, one ledger entry, one step of undo."""
