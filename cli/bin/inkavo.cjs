#!/usr/bin/env node
require('tsx/cjs');
require('../main.ts');
