/** As much of it as tests use. */
declare module 'oidc-provider' {
  export default class OidcProvider {
    constructor(issuer: string, configuration: object)
    callback(): (request: never, response: never) => void
  }
}
