/** Staff: roles, invitations, a way back in for whoever lost one, and leaving. */
import { Button, Menu, Modal, NativeSelect, Select, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { type Role, roleMeans, roleWords, staffQuery } from "../../api/practice";
import { useMe } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { OneTime } from "../../shared/OneTime";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { dateOf } from "../../shared/words";

type Member = Schema["Member"];
type Shown = { says: string; address: string };
const ROLES: Role[] = ["owner", "practitioner", "helper", "reader"];
const path = (practitioner_id: string) => ({ params: { path: { practitioner_id } } });

export function Staff() {
  const staff = useQuery(staffQuery);
  const queries = useQueryClient();
  const [shown, setShown] = useState<Shown>();
  const [closing, setClosing] = useState<Member>();
  const changed = (now: Schema["Staff"]) => queries.setQueryData(["staff"], now);
  const again = () => void queries.invalidateQueries({ queryKey: ["staff"] });
  const withdraw = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/staff/invitations/{link_id}", { params: { path: { link_id: id } } })),
    onSuccess: again,
  });
  if (staff.isPending) return <Waiting for="Loading staff" />;
  if (staff.isError) return <ErrorPanel error={staff.error} />;
  return (
    <section className={desk.section}>
      <h2>Staff</h2>
      <table className={desk.table}>
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Role</th>
            <th scope="col">Responsible for</th>
            <th scope="col">Upcoming appointments</th>
            <th scope="col">Two-step verification</th>
            <th scope="col" aria-label="More" />
          </tr>
        </thead>
        <tbody>
          {staff.data.members.map((member) => (
            <MemberRow
              key={member.id}
              member={member}
              onShown={setShown}
              onChanged={changed}
              onClose={() => setClosing(member)}
            />
          ))}
          {staff.data.invitations.map((one) => (
            <tr key={one.id}>
              <td>
                {one.name} <span className={desk.small}>invited, {one.email}</span>
              </td>
              <td>{roleWords[one.role]}</td>
              <td colSpan={3} className={desk.small}>
                link valid until {dateOf(one.until)}
              </td>
              <td>
                <Button size="compact-sm" variant="default" onClick={() => withdraw.mutate(one.id)}>
                  Withdraw
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {shown && <OneTime {...shown} />}
      <Invite
        onInvited={(link) => {
          setShown(link);
          again();
        }}
      />
      {closing && (
        <CloseAccount
          member={closing}
          others={staff.data.members}
          onClose={() => setClosing(undefined)}
          onChanged={changed}
        />
      )}
    </section>
  );
}

type RowProps = {
  member: Member;
  onShown: (link: Shown) => void;
  onChanged: (now: Schema["Staff"]) => void;
  onClose: () => void;
};

function MemberRow({ member, onShown, onChanged, onClose }: RowProps) {
  const me = useMe();
  const isMe = me.data?.id === member.id;
  const role = useMutation({
    mutationFn: (wanted: Role) => {
      const options = { ...path(member.id), body: { role: wanted } };
      return take(api.PATCH("/api/staff/{practitioner_id}", options));
    },
    onSuccess: onChanged,
  });
  const reset = useMutation({
    mutationFn: () => take(api.POST("/api/staff/{practitioner_id}/reset-link", path(member.id))),
    onSuccess: (link) =>
      onShown({
        says: `With this link ${member.name} chooses a new password. It works once, until ${dateOf(link.until)}.`,
        address: `${window.location.origin}/new-password#${link.token}`,
      }),
  });
  const second = useMutation({
    mutationFn: () => take(api.POST("/api/staff/{practitioner_id}/second-factor-off", path(member.id))),
    onSuccess: onChanged,
  });
  const failed = role.error ?? reset.error ?? second.error;
  return (
    <>
      <tr>
        <td>
          {member.name} <span className={desk.small}>{isMe ? `${member.email}, you` : member.email}</span>
        </td>
        <td>
          {member.open ? (
            <NativeSelect
              aria-label={`Role of ${member.name}`}
              title={roleMeans[member.role]}
              value={member.role}
              onChange={(event) => role.mutate(event.currentTarget.value as Role)}
              data={ROLES.map((one) => ({ value: one, label: roleWords[one] }))}
            />
          ) : (
            <span className={desk.small}>
              {member.closed_at ? `left on ${dateOf(member.closed_at)}` : "from an imported record"}
            </span>
          )}
        </td>
        <td className={desk.figures}>{member.people || ""}</td>
        <td className={desk.figures}>{member.appointments || ""}</td>
        <td>{member.open ? (member.second_factor ? "on" : "off") : ""}</td>
        <td>
          {member.open && (
            <Menu position="bottom-end">
              <Menu.Target>
                <Button size="compact-sm" variant="default" aria-label={`More for ${member.name}`}>
                  More
                </Button>
              </Menu.Target>
              <Menu.Dropdown>
                <Menu.Item onClick={() => reset.mutate()}>Make a link to a new password</Menu.Item>
                <Menu.Item disabled={isMe || !member.second_factor} onClick={() => second.mutate()}>
                  Turn off two-step verification
                </Menu.Item>
                <Menu.Item disabled={isMe} onClick={onClose}>
                  Close the account
                </Menu.Item>
              </Menu.Dropdown>
            </Menu>
          )}
        </td>
      </tr>
      {failed && (
        <tr>
          <td colSpan={6}>
            <ErrorPanel error={failed} />
          </td>
        </tr>
      )}
    </>
  );
}

function Invite({ onInvited }: { onInvited: (link: Shown) => void }) {
  const [name, setName] = useState("");
  const [email, setEmail] = useState("");
  const [role, setRole] = useState<Role>("practitioner");
  const invite = useMutation({
    mutationFn: () => take(api.POST("/api/staff/invitations", { body: { name, email, role } })),
    onSuccess: (link) => {
      onInvited({
        says: `Send this link to ${name}. It works once, until ${dateOf(link.until)}.`,
        address: `${window.location.origin}/join#${link.token}`,
      });
      setName("");
      setEmail("");
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    invite.mutate();
  };
  return (
    <>
      <form className={desk.row} onSubmit={submit} aria-label="Invite">
        <TextInput
          label="Invite"
          placeholder="Name"
          required
          withAsterisk={false}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <TextInput
          label="Email"
          type="email"
          required
          withAsterisk={false}
          value={email}
          onChange={(event) => setEmail(event.currentTarget.value)}
        />
        <NativeSelect
          label="Role"
          value={role}
          onChange={(event) => setRole(event.currentTarget.value as Role)}
          data={ROLES.map((one) => ({ value: one, label: `${roleWords[one]}: ${roleMeans[one]}` }))}
        />
        <Button type="submit" variant="default" loading={invite.isPending} style={{ flex: "none" }}>
          Make a link
        </Button>
      </form>
      {invite.isError && <ErrorPanel error={invite.error} />}
    </>
  );
}

type CloseProps = {
  member: Member;
  others: Member[];
  onClose: () => void;
  onChanged: (now: Schema["Staff"]) => void;
};

function CloseAccount({ member, others, onClose, onChanged }: CloseProps) {
  const [to, setTo] = useState<string | null>(null);
  const close = useMutation({
    mutationFn: () => {
      const options = { ...path(member.id), body: { hand_over_to: to } };
      return take(api.POST("/api/staff/{practitioner_id}/close", options));
    },
    onSuccess: (now) => {
      onChanged(now);
      onClose();
    },
  });
  const treats = others.filter(
    (one) => one.open && one.id !== member.id && one.role !== "helper" && one.role !== "reader",
  );
  return (
    <Modal opened onClose={onClose} title={`Close ${member.name}'s account`}>
      <div className={desk.form}>
        <p>They are signed out and cannot sign in again. Their name stays on their past entries.</p>
        {(member.people > 0 || member.appointments > 0) && (
          <Select
            label="Who takes over"
            description={`${member.people} people, ${member.appointments} upcoming appointments`}
            data={treats.map((one) => ({ value: one.id, label: one.name }))}
            value={to}
            onChange={setTo}
          />
        )}
        {close.isError && <ErrorPanel error={close.error} />}
        <div className={desk.buttons}>
          <Button loading={close.isPending} onClick={() => close.mutate()}>
            Close the account
          </Button>
          <Button variant="default" onClick={onClose}>
            Cancel
          </Button>
        </div>
      </div>
    </Modal>
  );
}
