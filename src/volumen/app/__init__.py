"""The window. The only package that knows Qt."""

from volumen.app.overrides import keep_faults_whole

keep_faults_whole()
