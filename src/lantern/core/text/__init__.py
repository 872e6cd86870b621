"""The text form: tests, flows, tables and elements as YAML that people can read and write."""
