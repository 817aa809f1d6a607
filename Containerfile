# An image of Stone Porch: everything in one, with a database of its own unless STONE_PORCH_DATABASE names yours.
#   podman build -t stone-porch .
#   podman run -p 127.0.0.1:4173:4173 -v stone-porch:/data stone-porch
FROM docker.io/library/node:20-bookworm-slim
RUN apt-get update -qq \
  && apt-get install -y -qq --no-install-recommends mariadb-server-core mariadb-client-core mariadb-client \
  && rm -rf /var/lib/apt/lists/*
WORKDIR /opt/stone-porch
COPY . .
RUN node start/start.mjs --setup \
  && mkdir /data \
  && chown -R node:node dist /data
USER node
VOLUME /data
EXPOSE 4173
# Ctrl-C and `podman stop` end what is under way in order.
STOPSIGNAL SIGTERM
HEALTHCHECK --interval=30s --timeout=5s --start-period=60s \
  CMD node -e "fetch('http://127.0.0.1:4173/health/ready').then((is) => process.exit(is.ok ? 0 : 1), () => process.exit(1))"
CMD ["node", "start/start.mjs", "--empty", "--host", "0.0.0.0", "--data", "/data/porch"]
