"""The process that owns browsers: it carries out runs and hosts live stages."""
