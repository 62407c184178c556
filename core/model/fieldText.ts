import { defaultPattern } from '../compose/text'
