import { runServer } from './serverThread'

runServer()
