"""What a page is told; reads only."""
