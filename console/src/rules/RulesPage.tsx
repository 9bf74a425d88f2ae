import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, type MapView, type RecordType, type RuleView, type Session } from "../api/client";
import { Empty } from "../ui/Empty";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { refresh } from "../ui/refresh";
import { failureOf } from "../ui/stale";
import { useAddress } from "../ui/useAddress";
import { useKept } from "../ui/useKept";
import { useKeys } from "../ui/useKeys";
import { ExplainPair } from "./ExplainPair";
import { LearningPanel } from "./LearningPanel";
import { RuleForm } from "./RuleForm";
import { RuleVersions } from "./RuleVersions";
import "./rules.css";
import { TrialPanel } from "./TrialPanel";

/** The rules by which duplicates are found: what each would find is counted while it is changed. */
export default function RulesPage({ map, session }: { map: MapView; session: Session }) {
  const { type: name = map.recordTypes[0]?.name } = useParams();
  const navigate = useNavigate();
  const type = map.recordTypes.find((each) => each.name === name);
  if (!type)
    return (
      <Empty title={t`There is no record type “${name ?? ""}”`}>
        <Trans>Choose one of the record types above.</Trans>
      </Empty>
    );
  return (
    <>
      <div className="page-head">
        <h1>
          <Trans>Rules for {type.plural.toLowerCase()}</Trans>
        </h1>
        <NativeSelect
          aria-label={t`Record type`}
          size="xs"
          value={type.name}
          data={map.recordTypes.map((each) => ({ value: each.name, label: each.plural }))}
          onChange={(event) => navigate(`/rules/${event.currentTarget.value}`)}
        />
      </div>
      <RulesOfType key={type.name} type={type} session={session} />
    </>
  );
}

function RulesOfType({ type, session }: { type: RecordType; session: Session }) {
  const { query, change } = useAddress();
  const rules = useQuery({ queryKey: ["rules", type.name], queryFn: () => api.rules(type.name) });
  const failure = failureOf(rules);
  if (failure) return <ProblemNote error={failure} retry={() => rules.refetch()} />;
  if (!rules.data) return <Reading what={t`the rules`} rows={8} />;
  const wanted = query.get("rule");
  const isNew = wanted === "";
  const showsLearning = query.has("learning");
  const chosen = rules.data.find((rule) => rule.name === wanted) ?? (isNew ? null : (rules.data[0] ?? null));
  const open = (rule: string) => change(() => new URLSearchParams({ rule }));
  return (
    <>
      <div className="bar" role="tablist" aria-label={t`Rules`}>
        {rules.data.map((rule) => (
          <button
            key={rule.name}
            type="button"
            role="tab"
            className="tab"
            aria-selected={rule === chosen && !showsLearning}
            onClick={() => open(rule.name)}
          >
            {rule.title} <span className="muted small">{fromWhere(rule)}</span>
          </button>
        ))}
        <button type="button" role="tab" className="tab" aria-selected={isNew} onClick={() => open("")}>
          <Trans>New rule</Trans>
        </button>
        <button
          type="button"
          role="tab"
          className="tab"
          aria-selected={showsLearning}
          onClick={() => change(() => new URLSearchParams({ learning: "" }))}
        >
          <Trans>What was learned</Trans>
        </button>
      </div>
      {showsLearning ? (
        <LearningPanel type={type} session={session} />
      ) : (
        <RuleEditor
          key={chosen?.name ?? ""}
          type={type}
          rule={chosen}
          builtIn={rules.data.find(isBuiltIn) ?? null}
          isOnly={rules.data.length === 1}
          hasReady={rules.data.some((each) => each.name === ready)}
          session={session}
          opened={open}
        />
      )}
    </>
  );
}

/** The name of the built-in rule. */
const ready = "ready";

const isBuiltIn = (rule: RuleView) => rule.name === ready && rule.version === 0;

function fromWhere(rule: RuleView): string {
  if (rule.version > 0) return t`version ${rule.version}`;
  return isBuiltIn(rule) ? t`built in` : t`in the map`;
}

/** A new rule, and what the built-in one is. */
const blank = "review: 50\nautomatic: 99\n";

function RuleEditor({
  type,
  rule,
  builtIn,
  isOnly,
  hasReady,
  session,
  opened,
}: {
  type: RecordType;
  /** Null for a rule that is not saved yet. */
  rule: RuleView | null;
  /** The built-in rule, if it is in force. */
  builtIn: RuleView | null;
  /** True if no other rule is in force. */
  isOnly: boolean;
  /** True if the built-in rule, or one that was saved in its place, is in force. */
  hasReady: boolean;
  session: Session;
  opened: (name: string) => void;
}) {
  const saved = rule?.body ?? blank;
  const [kept, setText, forget] = useKept(`rule ${type.name} ${rule?.name ?? ""}`);
  const text = kept ?? saved;
  const [name, setName] = useState("");
  const [note, setNote] = useState("");
  const [switchesOff, setSwitchesOff] = useState(false);
  const queries = useQueryClient();
  const notices = useNotices();
  const changed = text !== saved;
  const fresh = async () => {
    await refresh(queries, { queryKey: ["rules", type.name] });
    await refresh(queries, { queryKey: ["rule-versions", type.name] });
    await refresh(queries, { queryKey: ["trial", type.name] });
    await refresh(queries, { queryKey: ["explanation", type.name] });
  };
  const save = useMutation({
    mutationFn: async () => {
      const now = await api.saveRule(type.name, rule?.name ?? name.trim(), { body: text, note: note.trim() });
      const off = !rule && switchesOff ? builtIn : null;
      if (off) await api.removeRule(type.name, off.name, t`“${now.name}” takes its place`);
      return { now, off };
    },
    onSuccess: async ({ now, off }) => {
      forget();
      setNote("");
      await fresh();
      opened(now.name);
      notices.say({
        text: rule
          ? t`Saved “${now.name}” as version ${now.version}. The next scan uses it.`
          : off
            ? t`Saved “${now.name}” as version ${now.version}. The next scan uses it; the built-in rule is switched off.`
            : t`Saved “${now.name}” as version ${now.version}. The next scan uses it beside the other rules.`,
        undo: async () => {
          const why = t`undoes version ${now.version}`;
          if (off) await api.saveRule(type.name, off.name, { body: off.body, note: why });
          if (rule) await api.saveRule(type.name, rule.name, { body: rule.body, note: why });
          else await api.removeRule(type.name, now.name, why);
          await fresh();
        },
      });
    },
  });
  const remove = useMutation({
    mutationFn: (gone: RuleView) => api.removeRule(type.name, gone.name, note.trim()),
    onSuccess: async (_, gone) => {
      forget();
      await fresh();
      notices.say({
        text: isBuiltIn(gone)
          ? t`Switched off “${gone.name}”. The next scan does not use it.`
          : t`Removed “${gone.name}”. The next scan does not use it.`,
        undo: async () => {
          await api.saveRule(type.name, gone.name, { body: gone.body, note: t`undoes the removal` });
          await fresh();
        },
      });
    },
  });
  const restore = useMutation({
    mutationFn: () =>
      api.saveRule(type.name, ready, { body: blank, note: note.trim() || t`switches the built-in rule on` }),
    onSuccess: async (now) => {
      await fresh();
      opened(now.name);
      notices.say({ text: t`The built-in rule is on. The next scan uses it.` });
    },
  });
  const mayNot =
    session.role === "administrator" ? null : t`Only administrators can save rules; you can try them.`;
  const whyNot =
    mayNot ??
    (!rule && name.trim() === "" ? t`A new rule needs a name.` : rule && !changed ? t`No changes.` : null);
  const submit = () => {
    if (whyNot === null && !save.isPending) save.mutate();
  };
  useKeys("rules", { save: submit });
  return (
    <div className="rules">
      <section className="panel" aria-label={t`The rule`}>
        <header>
          <h2>{rule ? rule.title : t`New rule`}</h2>
          {changed && (
            <span className="small">
              <Trans>not saved</Trans>
            </span>
          )}
          {changed && (
            <Button size="compact-xs" variant="default" onClick={forget}>
              <Trans>Discard changes</Trans>
            </Button>
          )}
        </header>
        <div className="body">
          <RuleForm type={type} text={text} change={setText} />
          {(save.error ?? remove.error ?? restore.error) && (
            <ProblemNote error={save.error ?? remove.error ?? restore.error} />
          )}
          <form
            className="rule-save"
            onSubmit={(event) => {
              event.preventDefault();
              submit();
            }}
          >
            {!rule && (
              <TextInput
                size="xs"
                label={t`Name`}
                description={t`Small letters, digits and _`}
                value={name}
                onChange={(event) => setName(event.currentTarget.value)}
              />
            )}
            <TextInput
              size="xs"
              label={t`Note`}
              description={t`Why; stored with the version`}
              value={note}
              maxLength={2000}
              onChange={(event) => setNote(event.currentTarget.value)}
            />
            <Button size="compact-md" type="submit" disabled={whyNot !== null} loading={save.isPending}>
              <Trans>Save as a new version (Ctrl+S)</Trans>
            </Button>
            {!rule && !hasReady && (
              <Button
                size="compact-md"
                variant="default"
                disabled={mayNot !== null}
                loading={restore.isPending}
                onClick={() => restore.mutate()}
              >
                <Trans>Switch the built-in rule on</Trans>
              </Button>
            )}
            {!rule && builtIn && (
              <Checkbox
                size="xs"
                label={t`Switch the built-in rule off`}
                checked={switchesOff}
                onChange={(event) => setSwitchesOff(event.currentTarget.checked)}
              />
            )}
            {rule && (rule.version > 0 || isBuiltIn(rule)) && (
              <Button
                size="compact-md"
                variant="default"
                disabled={mayNot !== null || (isBuiltIn(rule) && isOnly)}
                title={
                  isBuiltIn(rule) && isOnly ? t`It is the only rule: save another one first.` : undefined
                }
                loading={remove.isPending}
                onClick={() => remove.mutate(rule)}
              >
                {isBuiltIn(rule) ? t`Switch off` : t`Remove`}
              </Button>
            )}
            <span className="why">{whyNot}</span>
          </form>
        </div>
        {rule && <RuleVersions type={type} rule={rule} take={setText} />}
      </section>
      <div className="rules-found">
        <TrialPanel
          type={type}
          text={text}
          replaces={rule?.name ?? (switchesOff ? (builtIn?.name ?? null) : null)}
          change={setText}
        />
        <ExplainPair type={type} />
      </div>
    </div>
  );
}
