"""The words of messages in the reader's language: Fluent files by language, and what renders them."""
