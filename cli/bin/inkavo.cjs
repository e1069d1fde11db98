#!/usr/bin/env node
require('../../dist/inkavo.cjs');
