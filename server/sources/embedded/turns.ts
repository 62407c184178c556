/** Those who wait take turns: person by person, and of one person's, task by task; within a task in the order of asking. */
export class Turns<T> {
  private readonly people = new Map<string, Map<string, T[]>>()

  add(each: T, person: string, task: string): void {
    let tasks = this.people.get(person)
    if (!tasks) this.people.set(person, (tasks = new Map()))
    const queue = tasks.get(task)
    if (queue) queue.push(each)
    else tasks.set(task, [each])
  }

  /** Whoever's turn it is; person and task go to the end of their lines. */
  next(): T | undefined {
    for (const [person, tasks] of this.people) {
      this.people.delete(person)
      for (const [task, queue] of tasks) {
        const found = queue.shift()!
        tasks.delete(task)
        if (queue.length) tasks.set(task, queue)
        if (tasks.size) this.people.set(person, tasks)
        return found
      }
    }
    return undefined
  }

  /** Takes somebody out of the line; false where nobody waits. */
  remove(each: T): boolean {
    for (const [person, tasks] of this.people) {
      for (const [task, queue] of tasks) {
        const at = queue.indexOf(each)
        if (at < 0) continue
        queue.splice(at, 1)
        if (!queue.length) tasks.delete(task)
        if (!tasks.size) this.people.delete(person)
        return true
      }
    }
    return false
  }

  /** Lets all go. */
  clear(): T[] {
    const all = [...this.people.values()].flatMap(tasks => [...tasks.values()].flat())
    this.people.clear()
    return all
  }
}
