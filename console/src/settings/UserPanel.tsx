import { Button, NativeSelect, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Session, type User } from "../api/client";
import { moment } from "../ui/format";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { ChangeUser } from "./ChangeUser";
import { roles } from "./roles";

const nobody = { name: "", fullName: "", role: "operator", password: "" };

/** Who may sign in, and in which role. */
export function UserPanel({ session }: { session: Session }) {
  const mayNot = session.role === "administrator" ? null : "Only administrators can see and change users.";
  const queries = useQueryClient();
  const notices = useNotices();
  const [fresh, setFresh] = useState(nobody);
  const [changed, setChanged] = useState<User | null>(null);
  const users = useQuery({ queryKey: ["users"], queryFn: api.users, enabled: mayNot === null });
  const add = useMutation({
    mutationFn: () =>
      api.addUser({
        ...fresh,
        name: fresh.name.trim(),
        fullName: fresh.fullName.trim(),
        password: fresh.password || null,
      }),
    onSuccess: (user) => {
      setFresh(nobody);
      notices.say({ text: `${user.fullName} can sign in as '${user.name}'.` });
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ["users"] }),
  });
  const missing = !fresh.name.trim()
    ? "A user needs a name."
    : !fresh.fullName.trim()
      ? "A user needs a full name."
      : null;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!missing) add.mutate();
  };
  return (
    <section className="panel" aria-label="Users">
      <header>
        <h2>Users</h2>
        {mayNot && <span className="why">{mayNot}</span>}
      </header>
      {users.error && <ProblemNote error={users.error} retry={() => users.refetch()} />}
      {users.isLoading && <Reading what="the users" />}
      {users.data && (
        <table className="rows">
          <thead>
            <tr>
              <th>Name</th>
              <th>Full name</th>
              <th>Role</th>
              <th>State</th>
              <th>Last sign-in</th>
              <th>Added</th>
              <th>
                <span className="visually-hidden">Change</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {users.data.map((user) => (
              <tr key={user.name}>
                <td>{user.name}</td>
                <td dir="auto">{user.fullName}</td>
                <td>{user.role}</td>
                <td>
                  {user.disabledAt ? (
                    <strong title={`since ${moment(user.disabledAt)}`}>disabled</strong>
                  ) : (
                    "may sign in"
                  )}
                </td>
                <td className="short">
                  {user.lastSignInAt ? moment(user.lastSignInAt) : <span className="muted">not known</span>}
                </td>
                <td className="short">{moment(user.createdAt)}</td>
                <td className="short">
                  <Button
                    size="compact-xs"
                    variant="default"
                    aria-label={`Change ${user.fullName}`}
                    onClick={() => setChanged(user)}
                  >
                    Change…
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {mayNot === null && (
        <form className="body bar" style={{ margin: 0, alignItems: "end" }} onSubmit={submit}>
          <TextInput
            size="xs"
            w={120}
            label="Name"
            value={fresh.name}
            onChange={(event) => setFresh({ ...fresh, name: event.currentTarget.value })}
          />
          <TextInput
            size="xs"
            w={150}
            label="Full name"
            value={fresh.fullName}
            onChange={(event) => setFresh({ ...fresh, fullName: event.currentTarget.value })}
          />
          <NativeSelect
            size="xs"
            label="Role"
            value={fresh.role}
            data={roles}
            onChange={(event) => setFresh({ ...fresh, role: event.currentTarget.value })}
          />
          <PasswordInput
            size="xs"
            w={150}
            label="Password"
            autoComplete="new-password"
            value={fresh.password}
            onChange={(event) => setFresh({ ...fresh, password: event.currentTarget.value })}
          />
          <Button size="compact-md" type="submit" disabled={missing !== null} loading={add.isPending}>
            Add
          </Button>
          <span className="why">{missing}</span>
        </form>
      )}
      {add.error && <ProblemNote error={add.error} />}
      {changed && <ChangeUser user={changed} close={() => setChanged(null)} />}
    </section>
  );
}
