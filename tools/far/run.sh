#!/bin/sh
# Far tables on a cluster: Spark standalone with two workers behind Spark Connect, all on this machine.
# Everything is installed in build/far; Debian's Java is installed where we are root, else named.
set -eu
cd "$(dirname "$0")/../.."

if ! command -v java >/dev/null 2>&1; then
    if [ "$(id -u)" -eq 0 ]; then
        apt-get update -qq
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends default-jre-headless >/dev/null
    else
        echo "Spark needs Java. Copy this line, then run make far again:"
        echo "  sudo apt-get install -y default-jre-headless"
        exit 1
    fi
fi

there=build/far
if [ ! -e "$there/ready" ]; then
    "${PYTHON:-python3}" -m venv "$there"
    "$there/bin/python" -m pip install --quiet --require-hashes -r requirements.lock
    "$there/bin/python" -m pip install --quiet --no-deps -e .
    "$there/bin/python" -m pip install --quiet "pyspark[connect]>=4.2,<5"
    touch "$there/ready"
fi

SPARK_HOME=$("$there/bin/python" -c 'import os, pyspark; print(os.path.dirname(pyspark.__file__))')
work=$(mktemp -d)
export SPARK_HOME SPARK_LOCAL_IP=127.0.0.1 PYSPARK_PYTHON="$PWD/$there/bin/python"
master=${RHABDOS_SPARK_MASTER_PORT:-17077}
port=${RHABDOS_SPARK_PORT:-15102}
workers=${RHABDOS_SPARK_WORKERS:-2}
started=""
trap 'kill $started 2>/dev/null || true; rm -rf "$work"' EXIT INT TERM

begin() {
    name=$1
    shift
    (cd "$work" && exec "$@" >"$work/$name.log" 2>&1) &
    started="$started $!"
}

waited() { # a log, and what stands in it once its program is ready
    for _ in $(seq 120); do
        grep -q "$2" "$work/$1.log" 2>/dev/null && return 0
        sleep 1
    done
    tail -n 5 "$work/$1.log"
    echo "Spark did not start: see above."
    exit 1
}

run="$SPARK_HOME/bin/spark-class"
begin master "$run" org.apache.spark.deploy.master.Master --host 127.0.0.1 --port "$master" --webui-port 0
waited master "I have been elected leader"
for number in $(seq "$workers"); do
    begin "worker$number" "$run" org.apache.spark.deploy.worker.Worker --host 127.0.0.1 --cores 1 --memory 3g \
        --webui-port 0 -d "$work/worker$number" "spark://127.0.0.1:$master"
    waited "worker$number" "Successfully registered with master"
done
begin connect "$SPARK_HOME/bin/spark-submit" --class org.apache.spark.sql.connect.service.SparkConnectServer \
    --master "spark://127.0.0.1:$master" --conf "spark.connect.grpc.binding.port=$port" \
    --conf spark.driver.host=127.0.0.1 --conf spark.driver.bindAddress=127.0.0.1 \
    --conf spark.executor.memory=2g --conf spark.ui.enabled=false --conf spark.sql.warehouse.dir="$work/tables"
waited connect "Spark Connect server started"

echo "Spark with $workers workers answers at sc://127.0.0.1:$port."
export RHABDOS_SPARK="sc://127.0.0.1:$port" QT_QPA_PLATFORM=offscreen
"$there/bin/python" -m pytest -p no:cacheprovider -n 0 -m spark -W ignore tests/data/far
"$there/bin/python" -W ignore -m benchmarks.far spark
