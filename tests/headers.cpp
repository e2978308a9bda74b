// Nothing: the precompiled header of the test programs is built with it.
