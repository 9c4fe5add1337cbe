# Completion of tuvvo-cli for bash: commands, their options, and the words that options take.
_tuvvo_cli()
{
    local current=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD-1]} command=${COMP_WORDS[1]-} words=
    COMPREPLY=()
    if [ "$COMP_CWORD" -eq 1 ]; then
        words="listen crate cut fit flip render check parameters --help --version"
    elif [ "$command" = crate ] && [ "$COMP_CWORD" -eq 2 ]; then
        words="scan find"
    else
        case $before in
            --by) words="hits beats:1 beats:2 bars:1 bars:2 equal:8 equal:16 sections chords" ;;
            --format) words="wav flac" ;;
            --bits) words="16 24 32f" ;;
            --order) words="reach name newest tempo length stars" ;;
            --rate) words="44100 48000 88200 96000" ;;
            --bpm|--to-bpm|--key|--to-key|--jobs|--limit|--seed|--ring) return ;;
            *)
                case $current in
                    -*)
                        case $command in
                            listen) words="--json --jobs" ;;
                            crate) words="--crate --json --bpm --key --like --order --limit" ;;
                            cut) words="--by --out --format --force --json" ;;
                            fit) words="--file --bpm --key --to-bpm --to-key --json" ;;
                            flip) words="--bpm --seed --project --out --force" ;;
                            render) words="--out --stems --rate --bits --ring --force" ;;
                            parameters) words="--json" ;;
                        esac
                        words="$words --help" ;;
                esac ;;
        esac
    fi
    if [ -n "$words" ]; then
        mapfile -t COMPREPLY < <(compgen -W "$words" -- "$current")
    else
        compopt -o filenames 2>/dev/null
        mapfile -t COMPREPLY < <(compgen -f -- "$current")
    fi
}
complete -F _tuvvo_cli tuvvo-cli
