# Builds Kame from this repository and leaves the program alone in a small image. The data is kept in /data.
FROM rust:1.95-trixie AS build
RUN apt-get update && apt-get install -y --no-install-recommends nodejs npm && rm -rf /var/lib/apt/lists/*
WORKDIR /kame
COPY . .
RUN make web && cargo build --release --locked

FROM debian:trixie-slim
RUN useradd --system --home-dir /data kame && install -d -o kame -m 0700 /data
COPY --from=build /kame/target/release/kame /kame/target/release/kame-devices /usr/local/bin/
USER kame
ENV KAME_DATA=/data
VOLUME /data
EXPOSE 4600
ENTRYPOINT ["kame"]
CMD ["serve"]
