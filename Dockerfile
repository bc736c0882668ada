# Ambrosa with PostgreSQL outside: AMBROSA_DATABASE_URL names it. Build the program first: make release.
FROM debian:12-slim
RUN apt-get update \
 && apt-get install --yes --no-install-recommends ca-certificates libvips42 libzxing2 libzbar0 \
 && rm -rf /var/lib/apt/lists/* \
 && useradd --system --uid 10001 --home-dir /var/lib/ambrosa --create-home ambrosa
COPY bin/ambrosa /usr/bin/ambrosa
USER 10001
ENV AMBROSA_DATA=/var/lib/ambrosa AMBROSA_HOST=0.0.0.0 PORT=8080
VOLUME /var/lib/ambrosa
EXPOSE 8080
HEALTHCHECK CMD ["bash", "-c", "exec 3<>/dev/tcp/127.0.0.1/$PORT && printf 'GET /readyz HTTP/1.0\\r\\n\\r\\n' >&3 && head -1 <&3 | grep -q ' 200'"]
ENTRYPOINT ["/usr/bin/ambrosa"]
CMD ["serve"]
