"""Every key: one table of actions, which footer, help, docs and the dispatcher read."""
