"""Measuring: the counting core against another engine on the same data, and a shopper's click on the server."""
