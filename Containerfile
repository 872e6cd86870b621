# Lantern with all that it needs. Build: docker build -t lantern -f Containerfile .
FROM node:20-bookworm-slim AS build
RUN apt-get update && apt-get install -y --no-install-recommends python3-venv \
 && rm -rf /var/lib/apt/lists/*
WORKDIR /build
COPY . .
RUN PYTHONPATH=src python3 -c "from lantern.host import setup as s; s.OWN.mkdir(exist_ok=True); \
      s.python_packages(checking=True); s.node_packages(); s.build()" \
 && PYTHONPATH=src .venv/bin/python -m lantern.cli wheel /wheel

FROM debian:12-slim
RUN apt-get update && apt-get install -y --no-install-recommends \
    ca-certificates python3-venv postgresql chromium firefox-esr webkit2gtk-driver xvfb bubblewrap fonts-dejavu-core \
 && rm -rf /var/lib/apt/lists/* \
 && useradd --system --create-home --home-dir /var/lib/lantern lantern
COPY --from=build /wheel /wheel
RUN python3 -m venv /opt/lantern \
 && /opt/lantern/bin/pip install --no-cache-dir -r /wheel/requirements.txt /wheel/lantern-*.whl
USER lantern
ENV LANTERN_DATA=/var/lib/lantern LANTERN_HOST=0.0.0.0 LANTERN_LOGS=output
VOLUME /var/lib/lantern
EXPOSE 8090
HEALTHCHECK CMD ["python3", "-c", "import urllib.request; urllib.request.urlopen('http://127.0.0.1:8090/api/health')"]
ENTRYPOINT ["/opt/lantern/bin/lantern"]
CMD ["serve"]
