#!/bin/sh
# For CI: checks a folder of definitions that was exported with “estante export”, and runs the tests that lie beside its reports.
#   check-library.sh <folder> <where the findings go>
# Ends with 1 where something is wrong: a formula that speaks of what is not there, a figure that is another than its test says.
# ESTANTE is how the command line is called here; ESTANTE_DATA the data folder that has the source.
set -u
folder=$1
findings=$2
: "${ESTANTE:=npx estante}" "${ESTANTE_DATA:=data}"
mkdir -p "$findings"
wrong=0
# findings as SARIF stand at the lines of a change, results of tests as JUnit in the list of checks
$ESTANTE check "$folder" --format sarif --out "$findings/check.sarif" --data "$ESTANTE_DATA" || wrong=1
$ESTANTE test "$folder" --format junit --out "$findings/tests.xml" --data "$ESTANTE_DATA" || wrong=1
exit $wrong
