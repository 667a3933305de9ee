# bash completion of fell-cli
# fell-cli reference writes this file from the program; do not edit it.
_fell_cli() {
    # Split at spaces alone: bash would split at = and : too.
    local line=${COMP_LINE:0:COMP_POINT} path= below= options= values= current before i
    local -a typed
    read -ra typed <<<"$line"
    [[ $line == *' ' ]] && typed+=('')
    current=${typed[-1]} before=${typed[-2]}
    for ((i = 1; i < ${#typed[@]} - 1; i++)); do
        case ${path:+$path }${typed[i]} in 'stages'|'mesh'|'transect'|'reach'|'trust'|'gate'|'ledger'|'ledger list'|'ledger show'|'ledger compare'|'ledger tag'|'ledger pin'|'ledger unpin'|'ledger remove'|'ledger export'|'ledger import'|'export'|'export mesh'|'export voxels'|'export light'|'picture'|'fly'|'store'|'light'|'audit'|'world'|'world new'|'world info'|'world verify'|'world compact'|'world ways'|'world pack'|'world import'|'recipe'|'recipe check'|'recipe show'|'recipe map'|'recipe schema'|'recipe reference'|'why'|'method'|'method check'|'duel'|'reference') path=${path:+$path }${typed[i]} ;; esac
    done
    case $path in
    '') below='stages mesh transect reach trust gate ledger export picture fly store light audit world recipe why method duel reference' options='--help --version' ;;
    'stages') below='' options='--json --markdown --help --quiet' ;;
    'mesh') below='' options='--world --seed --json --setup --set --method --mesher --layout --chunks --edge --repeat --a --b --help --quiet' ;;
    'transect') below='' options='--world --seed --method --setup --set --a --b --json --vary --route --rounds --frames --churn --size --out --keep --ledger --no-audit --no-draw --device --help --quiet' ;;
    'reach') below='' options='--world --seed --method --setup --set --json --budget --a --b --route --frames --farthest --size --device --help --quiet' ;;
    'trust') below='' options='--world --seed --method --setup --set --json --trials --slower --allow --route --rounds --frames --help --quiet' ;;
    'gate') below='' options='--world --seed --json --setup --set --method --baseline --comparison --allow --route --a --rounds --junit --device --help --quiet' ;;
    'ledger') below='list show compare tag pin unpin remove export import' options='--help --quiet' ;;
    'ledger list') below='' options='--ledger --json --help --quiet' ;;
    'ledger show') below='' options='--ledger --json --help --quiet' ;;
    'ledger compare') below='' options='--ledger --json --help --quiet' ;;
    'ledger tag') below='' options='--ledger --json --help --quiet' ;;
    'ledger pin') below='' options='--ledger --json --help --quiet' ;;
    'ledger unpin') below='' options='--ledger --json --help --quiet' ;;
    'ledger remove') below='' options='--ledger --json --help --quiet' ;;
    'ledger export') below='' options='--ledger --json --format --help --quiet' ;;
    'ledger import') below='' options='--ledger --json --help --quiet' ;;
    'export') below='mesh voxels light' options='--help --quiet' ;;
    'export mesh') below='' options='--world --seed --json --setup --set --method --format --box --out --help --quiet' ;;
    'export voxels') below='' options='--world --seed --json --setup --set --format --box --out --help --quiet' ;;
    'export light') below='' options='--world --seed --json --setup --set --format --box --out --mode --help --quiet' ;;
    'picture') below='' options='--world --seed --json --setup --set --method --route --along --sun --width --height --out --full-detail --device --help --quiet' ;;
    'fly') below='' options='--world --seed --json --setup --set --method --route --frames --speed --size --no-draw --straight --trace --device --help --quiet' ;;
    'store') below='' options='--world --seed --json --setup --set --form --chunks --edge --help --quiet' ;;
    'light') below='' options='--world --seed --json --setup --set --mode --box --edge --lamps --repeat --help --quiet' ;;
    'audit') below='' options='--world --seed --json --setup --set --method --cases --views --device --quick --help --quiet' ;;
    'world') below='new info verify compact ways pack import' options='--help --quiet' ;;
    'world new') below='' options='--world --seed --json --group --help --quiet' ;;
    'world info') below='' options='--json --help --quiet' ;;
    'world verify') below='' options='--json --help --quiet' ;;
    'world compact') below='' options='--json --help --quiet' ;;
    'world ways') below='' options='--world --seed --json --radius --edits --help --quiet' ;;
    'world pack') below='' options='--json --help --quiet' ;;
    'world import') below='' options='--json --like --metres --heights --material --threshold --ids --at --help --quiet' ;;
    'recipe') below='check show map schema reference' options='--help --quiet' ;;
    'recipe check') below='' options='--json --help --quiet' ;;
    'recipe show') below='' options='--json --help --quiet' ;;
    'recipe map') below='' options='--json --out --look --size --metres --at --seed --help --quiet' ;;
    'recipe schema') below='' options='--help --quiet' ;;
    'recipe reference') below='' options='--help --quiet' ;;
    'why') below='' options='--world --seed --json --setup --set --method --route --along --chunk --voxel --device --help --quiet' ;;
    'method') below='check' options='--help --quiet' ;;
    'method check') below='' options='--world --seed --json --save --help --quiet' ;;
    'duel') below='' options='--rounds --what --json --help --quiet' ;;
    'reference') below='' options='--out --help --quiet' ;;
    esac
    case $before in
    --a) values='chunk.edge=16 chunk.edge=32 chunk.edge=64 generate.method=samples generate.method=blocks store.form=array store.form=palette store.form=runs store.form=layers store.form=octree-wide store.form=octree-narrow light.mode=none light.mode=lamp light.mode=sky light.mode=lamp-sky light.mode=colour-lamp light.mode=colour-sky-only light.mode=colour light.mode=lamp-colour-sky light.mode=colour-sky light.sample=cells light.sample=corners light.sample=flat light.arrival=whole light.arrival=later mesh.mesher=every mesh.mesher=exposed mesh.mesher=greedy mesh.mesher=greedy-bits mesh.mesher=bevelled mesh.layout=floats mesh.layout=corners mesh.layout=packed mesh.shade=none mesh.shade=corners mesh.shade=rim mesh.models=baked mesh.models=objects stream.distance= stream.metres= stream.workers= stream.memory= stream.shape=pool stream.shape=per-stage stream.shape=drawing stream.order=nearest stream.order=view upload.method=buffer-each upload.method=arena upload.budget= upload.meshes= upload.time= lod.scheme=off lod.scheme=rings lod.scheme=error lod.made=recipe lod.made=finer lod.seams=open lod.seams=skirts lod.seams=stitched lod.levels= lod.detail= lod.error= cull.steps=distance cull.steps=view-triangle cull.steps=view-corners cull.steps=view-planes cull.steps=octree cull.steps=facing cull.steps=hidden cull.reach=sphere cull.reach=column cull.leaf=1 cull.leaf=2 cull.leaf=4 cull.facing=chunk cull.facing=node cull.hidden=both cull.hidden=walk cull.hidden=depth draw.submission=per-block draw.submission=per-chunk draw.submission=instanced draw.submission=indirect draw.seeThrough=by-chunk draw.seeThrough=within draw.filter=nearest draw.filter=smooth draw.filter=anisotropic draw.fieldOfView= draw.fog= draw.budget= edit.method=gathered edit.method=each keep.what=changed keep.what=visited keep.group=chunk keep.group=column keep.group=cube keep.autosave=' ;;
    --b) values='chunk.edge=16 chunk.edge=32 chunk.edge=64 generate.method=samples generate.method=blocks store.form=array store.form=palette store.form=runs store.form=layers store.form=octree-wide store.form=octree-narrow light.mode=none light.mode=lamp light.mode=sky light.mode=lamp-sky light.mode=colour-lamp light.mode=colour-sky-only light.mode=colour light.mode=lamp-colour-sky light.mode=colour-sky light.sample=cells light.sample=corners light.sample=flat light.arrival=whole light.arrival=later mesh.mesher=every mesh.mesher=exposed mesh.mesher=greedy mesh.mesher=greedy-bits mesh.mesher=bevelled mesh.layout=floats mesh.layout=corners mesh.layout=packed mesh.shade=none mesh.shade=corners mesh.shade=rim mesh.models=baked mesh.models=objects stream.distance= stream.metres= stream.workers= stream.memory= stream.shape=pool stream.shape=per-stage stream.shape=drawing stream.order=nearest stream.order=view upload.method=buffer-each upload.method=arena upload.budget= upload.meshes= upload.time= lod.scheme=off lod.scheme=rings lod.scheme=error lod.made=recipe lod.made=finer lod.seams=open lod.seams=skirts lod.seams=stitched lod.levels= lod.detail= lod.error= cull.steps=distance cull.steps=view-triangle cull.steps=view-corners cull.steps=view-planes cull.steps=octree cull.steps=facing cull.steps=hidden cull.reach=sphere cull.reach=column cull.leaf=1 cull.leaf=2 cull.leaf=4 cull.facing=chunk cull.facing=node cull.hidden=both cull.hidden=walk cull.hidden=depth draw.submission=per-block draw.submission=per-chunk draw.submission=instanced draw.submission=indirect draw.seeThrough=by-chunk draw.seeThrough=within draw.filter=nearest draw.filter=smooth draw.filter=anisotropic draw.fieldOfView= draw.fog= draw.budget= edit.method=gathered edit.method=each keep.what=changed keep.what=visited keep.group=chunk keep.group=column keep.group=cube keep.autosave=' ;;
    --form) values='array palette runs layers octree-wide octree-narrow' ;;
    --layout) values='floats corners packed' ;;
    --like) values='checker corrowdale dust gallery level solid' ;;
    --mesher) values='every exposed greedy greedy-bits bevelled' ;;
    --route) values='beck-to-summit gallery round-the-tarn' ;;
    --set) values='chunk.edge=16 chunk.edge=32 chunk.edge=64 generate.method=samples generate.method=blocks store.form=array store.form=palette store.form=runs store.form=layers store.form=octree-wide store.form=octree-narrow light.mode=none light.mode=lamp light.mode=sky light.mode=lamp-sky light.mode=colour-lamp light.mode=colour-sky-only light.mode=colour light.mode=lamp-colour-sky light.mode=colour-sky light.sample=cells light.sample=corners light.sample=flat light.arrival=whole light.arrival=later mesh.mesher=every mesh.mesher=exposed mesh.mesher=greedy mesh.mesher=greedy-bits mesh.mesher=bevelled mesh.layout=floats mesh.layout=corners mesh.layout=packed mesh.shade=none mesh.shade=corners mesh.shade=rim mesh.models=baked mesh.models=objects stream.distance= stream.metres= stream.workers= stream.memory= stream.shape=pool stream.shape=per-stage stream.shape=drawing stream.order=nearest stream.order=view upload.method=buffer-each upload.method=arena upload.budget= upload.meshes= upload.time= lod.scheme=off lod.scheme=rings lod.scheme=error lod.made=recipe lod.made=finer lod.seams=open lod.seams=skirts lod.seams=stitched lod.levels= lod.detail= lod.error= cull.steps=distance cull.steps=view-triangle cull.steps=view-corners cull.steps=view-planes cull.steps=octree cull.steps=facing cull.steps=hidden cull.reach=sphere cull.reach=column cull.leaf=1 cull.leaf=2 cull.leaf=4 cull.facing=chunk cull.facing=node cull.hidden=both cull.hidden=walk cull.hidden=depth draw.submission=per-block draw.submission=per-chunk draw.submission=instanced draw.submission=indirect draw.seeThrough=by-chunk draw.seeThrough=within draw.filter=nearest draw.filter=smooth draw.filter=anisotropic draw.fieldOfView= draw.fog= draw.budget= edit.method=gathered edit.method=each keep.what=changed keep.what=visited keep.group=chunk keep.group=column keep.group=cube keep.autosave=' ;;
    --setup) values='long-view near plain valley' ;;
    --vary) values='chunk.edge=16 chunk.edge=32 chunk.edge=64 generate.method=samples generate.method=blocks store.form=array store.form=palette store.form=runs store.form=layers store.form=octree-wide store.form=octree-narrow light.mode=none light.mode=lamp light.mode=sky light.mode=lamp-sky light.mode=colour-lamp light.mode=colour-sky-only light.mode=colour light.mode=lamp-colour-sky light.mode=colour-sky light.sample=cells light.sample=corners light.sample=flat light.arrival=whole light.arrival=later mesh.mesher=every mesh.mesher=exposed mesh.mesher=greedy mesh.mesher=greedy-bits mesh.mesher=bevelled mesh.layout=floats mesh.layout=corners mesh.layout=packed mesh.shade=none mesh.shade=corners mesh.shade=rim mesh.models=baked mesh.models=objects stream.distance= stream.metres= stream.workers= stream.memory= stream.shape=pool stream.shape=per-stage stream.shape=drawing stream.order=nearest stream.order=view upload.method=buffer-each upload.method=arena upload.budget= upload.meshes= upload.time= lod.scheme=off lod.scheme=rings lod.scheme=error lod.made=recipe lod.made=finer lod.seams=open lod.seams=skirts lod.seams=stitched lod.levels= lod.detail= lod.error= cull.steps=distance cull.steps=view-triangle cull.steps=view-corners cull.steps=view-planes cull.steps=octree cull.steps=facing cull.steps=hidden cull.reach=sphere cull.reach=column cull.leaf=1 cull.leaf=2 cull.leaf=4 cull.facing=chunk cull.facing=node cull.hidden=both cull.hidden=walk cull.hidden=depth draw.submission=per-block draw.submission=per-chunk draw.submission=instanced draw.submission=indirect draw.seeThrough=by-chunk draw.seeThrough=within draw.filter=nearest draw.filter=smooth draw.filter=anisotropic draw.fieldOfView= draw.fog= draw.budget= edit.method=gathered edit.method=each keep.what=changed keep.what=visited keep.group=chunk keep.group=column keep.group=cube keep.autosave=' ;;
    --world) values='checker corrowdale dust gallery level solid' ;;
    esac
    if [[ -n $values ]]; then
        mapfile -t COMPREPLY < <(compgen -W "$values" -- "$current")
    elif [[ $current == -* ]]; then
        mapfile -t COMPREPLY < <(compgen -W "$options" -- "$current")
    else
        mapfile -t COMPREPLY < <(compgen -W "$below" -- "$current")
    fi
    [[ ${#COMPREPLY[@]} -eq 1 && ${COMPREPLY[0]} == *= ]] && compopt -o nospace 2>/dev/null
    # Only what is behind the last = is replaced.
    if [[ $current == *=* && $COMP_WORDBREAKS == *=* ]]; then
        COMPREPLY=("${COMPREPLY[@]#"${current%"${current##*=}"}"}")
    fi
}
complete -o default -F _fell_cli fell-cli
