import './src/begin';
import 'expo-router/entry';
