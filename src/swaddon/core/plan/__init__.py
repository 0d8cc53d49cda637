"""The plan: settings in, stages in order, one result out."""
