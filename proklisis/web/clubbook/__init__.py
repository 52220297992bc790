"""The club's own playbook: prepared, held against past verdicts, switched on and off."""
