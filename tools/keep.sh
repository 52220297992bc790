# Sourced by ./start; needs say() of setup.sh.

# Run a part, and start it again when it ends by itself, as the workers do when the database restarts.
# To be run in the background: it is a process of its own then, and its variables are nobody else's.
keep() {
  child="" quick=0
  trap 'trap - INT TERM; kill -TERM "$child" 2>/dev/null || true; wait "$child" 2>/dev/null || true; exit 0' INT TERM
  while :; do
    began=$SECONDS
    "$@" &
    child=$!
    wait "$child" || true
    # What cannot even begin is not tried for ever.
    if [ $((SECONDS - began)) -lt 10 ]; then quick=$((quick + 1)); else quick=0; fi
    [ $quick -lt "${KEEP_TRIES:-30}" ] || exit 1
    say "A part of the application has ended; starting it again."
    sleep "${KEEP_PAUSE:-2}"
  done
}
