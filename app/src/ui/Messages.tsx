import { createPortal } from 'react-dom';
import { View } from 'react-native';
import { dropMessage, useMessages, type Message } from '../state/messages';
import { Button } from './Button';
import { Trouble } from './Note';
import { Txt } from './Txt';

/** Above screens, pictures and sheets: a sheet's layer has 9999. */
const LAYER = { position: 'fixed', left: 0, right: 0, top: 52, zIndex: 10_000, pointerEvents: 'none' } as const;

/** The single place for messages, above any screen or sheet. */
export function Messages() {
  const list = useMessages((s) => s.list);
  if (list.length === 0) return null;
  return createPortal(
    <div style={LAYER} data-testid="messages">
      <View className="mx-auto w-full max-w-[720px] gap-2 px-2">
        {list.map((message) => (
          <View key={message.key} style={{ pointerEvents: 'auto' }}>
            {message.fades ? <Notice message={message} /> : <Lasting message={message} />}
          </View>
        ))}
      </View>
    </div>,
    document.body,
  );
}

function Notice({ message: { key, text, actions = [] } }: { message: Message }) {
  return (
    <View
      role="status"
      className="max-w-full flex-row items-center gap-2 self-center rounded border-stroke border-edge bg-surface px-3 py-2"
    >
      <Txt size={actions.length ? 'base' : 'sm'} className="shrink">
        {text}
      </Txt>
      {actions.map(({ title, run }) => (
        <Button
          key={title}
          title={title}
          onPress={() => {
            dropMessage(key);
            run();
          }}
        />
      ))}
    </View>
  );
}

function Lasting({ message: { key, text, actions = [] } }: { message: Message }) {
  return (
    <Trouble text={text}>
      {actions.map(({ title, strong, run }) => (
        <Button key={title} title={title} look={strong ? 'strong' : 'plain'} onPress={run} />
      ))}
      {actions.length === 0 ? <Button title="Close" onPress={() => dropMessage(key)} /> : null}
    </Trouble>
  );
}
