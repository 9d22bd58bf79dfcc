/** A checksum with every part of an upload (tus checksum extension), so that the server keeps only what was sent. */
import { DefaultHttpStack, type HttpRequest } from "tus-js-client";

export class ChecksumStack extends DefaultHttpStack {
  createRequest(method: string, url: string): HttpRequest {
    const request = super.createRequest(method, url);
    // Browsers compute checksums on https and on this machine only; elsewhere TCP's has to do.
    if (method !== "PATCH" || !globalThis.crypto?.subtle) return request;
    const send = request.send.bind(request);
    request.send = async (body: Blob | Uint8Array) => {
      const bytes = body instanceof Blob ? await body.arrayBuffer() : new Uint8Array(body).buffer;
      const digest = new Uint8Array(await crypto.subtle.digest("SHA-256", bytes));
      request.setHeader("Upload-Checksum", `sha256 ${btoa(String.fromCharCode(...digest))}`);
      return send(body);
    };
    return request;
  }
}
