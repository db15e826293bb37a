"""The demo's world: a made-up orchestra's mailbox, written by hand where it is seen, by grammar where it is many."""
